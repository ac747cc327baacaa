// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/sounds_tab.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "project/atomic_file.h"
#include "project/file_error.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLocale>
#include <QSettings>
#include <QVBoxLayout>
#include <QtConcurrent>

namespace stone
{

namespace
{

const QString keptKey = QStringLiteral("export/sounds/%1");
constexpr int rates[] = {0, 48'000, 44'100, 32'000, 24'000};

enum Column { file, channels, before, after };

QString sizeText(std::uint64_t bytes)
{
    return QLocale().formattedDataSize(static_cast<qint64>(bytes));
}

std::uint64_t sizeOf(const std::filesystem::path& file)
{
    std::error_code error;
    const auto bytes = std::filesystem::file_size(file, error);
    return error ? 0 : bytes;
}

QString channelWords(PreparedSound::Channels how)
{
    switch (how) {
    case PreparedSound::Channels::kept: return SoundsTab::tr("as they are");
    case PreparedSound::Channels::mid: return SoundsTab::tr("one, their mean");
    case PreparedSound::Channels::equalPower: return SoundsTab::tr("one, their power");
    case PreparedSound::Channels::left: return SoundsTab::tr("the left one");
    case PreparedSound::Channels::right: return SoundsTab::tr("the right one");
    }
    return {};
}

} // namespace

SoundsTab::SoundsTab(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), as_(new QComboBox), forget_(new QPushButton(tr("Forget"))), format_(new QComboBox),
      rate_(new QComboBox), quality_(new NumberField("%", 0, 100, 0, 10)),
      fold_(new QCheckBox(tr("one channel for what is placed as one"))),
      trim_(new QCheckBox(tr("without silence at the ends"))), matched_(new QCheckBox(tr("all as loud as"))),
      loudness_(new NumberField("LUFS", rangeOf(&SoundTarget::loudness_lufs), 1, 1)), naming_(new QComboBox),
      list_(fileList("soundsList", tr("Sounds"), {tr("file"), tr("channels"), tr("now"), tr("then")})),
      heard_(new BeforeAfter(session, playback)), folder_(new FolderRow("sounds", tr("A folder for the sounds"))),
      end_(new WritingRow("sounds"))
{
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(
        tr("Every file of the sounds as a game wants it. Loops stay loops at another rate; their points are in WAV files and, "
           "for all formats, in the table prepared.csv beside them.")));
    as_->setObjectName("soundsAs");
    as_->setAccessibleName(tr("Kept as"));
    as_->setToolTip(tr("Ways to export that are kept in the project, for everybody who works on it, and for "
                       "stone-echo-cli export --as"));
    auto* keepAs = new QPushButton(tr("Keep as…"));
    keepAs->setObjectName("soundsKeep");
    keepAs->setToolTip(tr("Keeps what is set here in the project, under a name"));
    forget_->setObjectName("soundsForget");
    auto* kept = new QHBoxLayout;
    kept->addWidget(as_, 1);
    kept->addWidget(keepAs);
    kept->addWidget(forget_);
    box->addLayout(kept);
    format_->setObjectName("soundsFormat");
    format_->setAccessibleName(tr("Format"));
    format_->addItems({tr("WAV, 16 bits"), tr("WAV, 24 bits"), tr("FLAC"), tr("Ogg Vorbis"), tr("Opus")});
    rate_->setObjectName("soundsRate");
    rate_->setAccessibleName(tr("Rate"));
    for (const int rate : rates) {
        rate_->addItem(rate == 0 ? tr("as each is") : tr("%1 Hz").arg(rate), rate);
    }
    quality_->setObjectName("soundsQuality");
    quality_->setAccessibleName(tr("Quality"));
    quality_->setToolTip(tr("Of Ogg Vorbis and Opus: the more, the larger"));
    fold_->setObjectName("soundsFold");
    fold_->setToolTip(
        tr("A sound that is only ever placed somewhere is heard as one channel; beds, images and what was made for "
           "two ears keep theirs"));
    trim_->setObjectName("soundsTrim");
    trim_->setToolTip(tr("Of sounds that are no loops"));
    matched_->setObjectName("soundsMatched");
    matched_->setToolTip(tr("Each file is made so loud, as far as it does not go beyond full scale; by how much is in "
                            "prepared.csv, so that the game can take it off again"));
    loudness_->setObjectName("soundsLoudness");
    loudness_->setAccessibleName(tr("Loudness"));
    loudness_->setFixedWidth(104);
    naming_->setObjectName("soundsNaming");
    naming_->setAccessibleName(tr("Names"));
    naming_->addItems(
        {tr("called as the files are"), tr("called after the sounds"), tr("after the sounds, plain_letters_only")});
    const QSettings settings;
    format_->setCurrentIndex(settings.value(keptKey.arg("format"), static_cast<int>(SoundTarget::Format::vorbis)).toInt());
    rate_->setCurrentIndex(std::max(rate_->findData(settings.value(keptKey.arg("rate"), 0)), 0));
    quality_->present(settings.value(keptKey.arg("quality"), 50.0).toDouble());
    fold_->setChecked(settings.value(keptKey.arg("fold"), true).toBool());
    trim_->setChecked(settings.value(keptKey.arg("trim"), false).toBool());
    matched_->setChecked(settings.value(keptKey.arg("matched"), false).toBool());
    loudness_->present(settings.value(keptKey.arg("loudness"), SoundTarget{}.loudness_lufs).toDouble());
    naming_->setCurrentIndex(settings.value(keptKey.arg("naming"), 0).toInt());
    auto* how = new QHBoxLayout;
    for (QWidget* field : {static_cast<QWidget*>(format_), static_cast<QWidget*>(rate_), static_cast<QWidget*>(quality_)}) {
        how->addWidget(field, 1);
    }
    box->addLayout(how);
    auto* ticks = new QHBoxLayout;
    ticks->addWidget(fold_);
    ticks->addWidget(trim_);
    ticks->addStretch();
    box->addLayout(ticks);
    auto* more = new QHBoxLayout;
    more->addWidget(matched_);
    more->addWidget(loudness_);
    more->addStretch();
    more->addWidget(naming_);
    box->addLayout(more);
    list_->setSelectionMode(QAbstractItemView::SingleSelection);
    list_->setSelectionBehavior(QAbstractItemView::SelectRows);
    box->addWidget(list_, 1);
    box->addWidget(heard_);
    folder_->present(settings.value(keptKey.arg("folder")).toString(), session_.folder(), "prepared");
    box->addWidget(folder_);
    box->addWidget(end_);
    connect(folder_, &FolderRow::changed, this, &SoundsTab::refresh);
    connect(list_, &QTableWidget::itemSelectionChanged, this, &SoundsTab::refresh);
    connect(rate_, &QComboBox::currentIndexChanged, this, &SoundsTab::refresh);
    connect(trim_, &QCheckBox::toggled, this, &SoundsTab::refresh);
    connect(quality_, &NumberField::valueChanged, this, &SoundsTab::refresh);
    connect(loudness_, &NumberField::valueChanged, this, &SoundsTab::refresh);
    connect(format_, &QComboBox::currentIndexChanged, this, &SoundsTab::list);
    connect(fold_, &QCheckBox::toggled, this, &SoundsTab::list);
    connect(naming_, &QComboBox::currentIndexChanged, this, &SoundsTab::list);
    connect(matched_, &QCheckBox::toggled, this, &SoundsTab::refresh);
    connect(as_, &QComboBox::activated, this, [this](int index) {
        if (const auto& all = session_.project().soundTargets; index > 0) {
            show(*all[static_cast<std::size_t>(index - 1)]);
        }
        refresh();
    });
    connect(keepAs, &QPushButton::clicked, this, &SoundsTab::keep);
    connect(forget_, &QPushButton::clicked, this, &SoundsTab::forget);
    connect(&session_, &Session::documentChanged, this, &SoundsTab::listKept);
    listKept();
    connect(end_, &WritingRow::clicked, this, &SoundsTab::write);
    connect(&writing_, &QFutureWatcherBase::finished, this, &SoundsTab::finished);
    list();
}

SoundsTab::~SoundsTab()
{
    if (job_) {
        job_->stopped = true;
    }
    writing_.waitForFinished();
}

SoundTarget SoundsTab::target() const
{
    return {.format = static_cast<SoundTarget::Format>(format_->currentIndex()),
            .rate = rate_->currentData().toInt(),
            .quality = quality_->value() / 100.0,
            .fold = fold_->isChecked(),
            .trim = trim_->isChecked(),
            .loudness = matched_->isChecked() ? SoundTarget::Loudness::matched : SoundTarget::Loudness::kept,
            .loudness_lufs = loudness_->value(),
            .naming = static_cast<SoundTarget::Naming>(naming_->currentIndex())};
}

void SoundsTab::show(const SoundTarget& target)
{
    format_->setCurrentIndex(static_cast<int>(target.format));
    if (rate_->findData(target.rate) < 0) {
        rate_->addItem(tr("%1 Hz").arg(target.rate), target.rate);
    }
    rate_->setCurrentIndex(rate_->findData(target.rate));
    quality_->present(100.0 * target.quality);
    fold_->setChecked(target.fold);
    trim_->setChecked(target.trim);
    matched_->setChecked(target.loudness == SoundTarget::Loudness::matched);
    loudness_->present(target.loudness_lufs);
    naming_->setCurrentIndex(static_cast<int>(target.naming));
}

/// The names of what the project keeps; the one that was chosen stays chosen.
void SoundsTab::listKept()
{
    const QString chosen = as_->currentIndex() > 0 ? as_->currentText() : QString();
    as_->clear();
    as_->addItem(tr("as it is set here"));
    for (const auto& target : session_.project().soundTargets) {
        as_->addItem(QString::fromStdString(target->name));
    }
    as_->setCurrentIndex(chosen.isEmpty() ? 0 : std::max(as_->findText(chosen), 0));
    forget_->setEnabled(as_->currentIndex() > 0);
}

void SoundsTab::keep()
{
    bool given = false;
    const QString usual = as_->currentIndex() > 0 ? as_->currentText() : tr("For the game");
    const QString name = QInputDialog::getText(this, tr("Keep these settings"), tr("Kept in the project. Their name:"),
                                               QLineEdit::Normal, usual, &given)
                             .trimmed();
    if (!given || name.isEmpty()) {
        return;
    }
    Project next = session_.project();
    SoundTarget kept = target();
    kept.name = name.toStdString();
    for (const auto& known : next.soundTargets) {
        if (known->name == kept.name) {
            kept.id = known->id;
            kept.extras = known->extras;
        }
    }
    if (kept.id.empty()) {
        kept.id = next.soundTargets.freshId(kept.name);
    }
    next.soundTargets.put(kept);
    session_.edit(std::move(next), tr("Keep the export settings %1").arg(name));
    as_->setCurrentIndex(std::max(as_->findText(name), 0));
    refresh();
}

void SoundsTab::forget()
{
    const int index = as_->currentIndex();
    Project next = session_.project();
    if (index > 0 && static_cast<std::size_t>(index) <= next.soundTargets.size()) {
        const SoundTarget gone = *next.soundTargets[static_cast<std::size_t>(index - 1)];
        next.soundTargets.remove(gone.id);
        session_.edit(std::move(next), tr("Forget the export settings %1").arg(QString::fromStdString(gone.name)));
        refresh();
    }
}

void SoundsTab::list()
{
    sounds_ = soundsToPrepare(session_.project(), target(), [this](const std::string& name) { return session_.resolve(name); });
    list_->setRowCount(static_cast<int>(sounds_.size()));
    for (int i = 0; i < list_->rowCount(); ++i) {
        const PreparedSound& sound = sounds_[static_cast<std::size_t>(i)];
        list_->setItem(i, file, fileCell(QString::fromStdString(sound.to)));
        list_->setItem(i, channels, fileCell(channelWords(sound.channels)));
        list_->setItem(i, before, fileCell(sizeText(sizeOf(sound.from)), true));
        list_->setItem(i, after, fileCell({}, true));
    }
    refresh();
}

void SoundsTab::refresh()
{
    const bool lossy = target().format == SoundTarget::Format::vorbis || target().format == SoundTarget::Format::opus;
    const bool busy = job_ != nullptr;
    quality_->setEnabled(lossy && !busy);
    for (QWidget* field : {static_cast<QWidget*>(format_), static_cast<QWidget*>(rate_), static_cast<QWidget*>(fold_),
                           static_cast<QWidget*>(trim_), static_cast<QWidget*>(matched_), static_cast<QWidget*>(naming_),
                           static_cast<QWidget*>(as_), static_cast<QWidget*>(folder_)}) {
        field->setEnabled(!busy);
    }
    loudness_->setEnabled(matched_->isChecked() && !busy);
    forget_->setEnabled(as_->currentIndex() > 0 && !busy);
    const QModelIndexList chosen = list_->selectionModel()->selectedRows();
    const bool any = !chosen.isEmpty() && static_cast<std::size_t>(chosen.front().row()) < sounds_.size();
    heard_->choose(any ? std::optional(sounds_[static_cast<std::size_t>(chosen.front().row())]) : std::nullopt, target());
    const QString folder = folder_->text();
    end_->offer(tr("Write"), !sounds_.empty() && !folder.isEmpty());
    if (busy) {
        end_->say(tr("Being written to %1…").arg(folder));
    } else if (sounds_.empty()) {
        end_->say(tr("The project has no sounds yet."));
    } else if (folder.isEmpty()) {
        end_->say(tr("Choose a folder for them."));
    } else {
        std::uint64_t bytes = 0;
        for (const PreparedSound& sound : sounds_) {
            bytes += sizeOf(sound.from);
        }
        end_->say(tr("%n files, now %1. Files of these names there are replaced.", nullptr, static_cast<int>(sounds_.size()))
                      .arg(sizeText(bytes)));
    }
}

void SoundsTab::write()
{
    if (job_) {
        job_->stopped = true;
        return;
    }
    QSettings settings;
    settings.setValue(keptKey.arg("format"), format_->currentIndex());
    settings.setValue(keptKey.arg("rate"), rate_->currentData());
    settings.setValue(keptKey.arg("quality"), quality_->value());
    settings.setValue(keptKey.arg("fold"), fold_->isChecked());
    settings.setValue(keptKey.arg("trim"), trim_->isChecked());
    settings.setValue(keptKey.arg("matched"), matched_->isChecked());
    settings.setValue(keptKey.arg("loudness"), loudness_->value());
    settings.setValue(keptKey.arg("naming"), naming_->currentIndex());
    settings.setValue(keptKey.arg("folder"), folder_->text());
    job_ = std::make_shared<Job>();
    job_->sounds = sounds_;
    job_->target = target();
    job_->folder = folder_->folder();
    end_->begin(static_cast<int>(sounds_.size()), [job = job_] { return static_cast<int>(job->done); });
    writing_.setFuture(QtConcurrent::run(&workPool(), [job = job_] {
        try {
            std::filesystem::create_directories(job->folder);
            for (const PreparedSound& sound : job->sounds) {
                job->facts.push_back(prepareSound(sound, job->target, job->folder, [&job] { return job->stopped.load(); }));
                ++job->done;
            }
            writeAtomically(job->folder / "prepared.csv", preparedTable(job->sounds, job->facts).text());
        } catch (const std::exception& error) { // FileError and filesystem_error say which file, and why
            job->trouble = error.what();
        }
    }));
    refresh();
}

void SoundsTab::finished()
{
    end_->end();
    const std::shared_ptr<Job> done = std::exchange(job_, nullptr);
    std::uint64_t bytes = 0;
    std::uint64_t was = 0;
    for (std::size_t i = 0; i < done->facts.size(); ++i) {
        bytes += done->facts[i].bytes;
        was += done->facts[i].bytesBefore;
        list_->item(static_cast<int>(i), after)->setText(sizeText(done->facts[i].bytes));
    }
    refresh();
    if (done->stopped) {
        end_->say(tr("Stopped: %1 of %2 are written.").arg(done->facts.size()).arg(done->sounds.size()));
    } else if (!done->trouble.empty()) {
        end_->say(QString::fromStdString(done->trouble));
    } else {
        end_->say(tr("Written: %1 have become %2.").arg(sizeText(was), sizeText(bytes)));
    }
}

} // namespace stone
