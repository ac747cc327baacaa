// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/findings_dialog.h"

#include "analysis/floor_findings.h"
#include "analysis/masking.h"
#include "app/session/work_pool.h"
#include "app/theme/theme.h"
#include "media/found_again.h"

#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFutureWatcher>
#include <QPointer>
#include <QProgressDialog>
#include <QVBoxLayout>
#include <QtConcurrent/QtConcurrentRun>

#include <algorithm>
#include <atomic>
#include <memory>

namespace stone
{

FindingsDialog::FindingsDialog(Session& session, std::shared_ptr<const Scene> scene, QWidget* parent)
    : QDialog(parent), session_(session), scene_(std::move(scene)), list_(new RowList), text_(new QLabel),
      go_(new QPushButton(tr("Show it"))), mend_(new QPushButton), lookFor_(new QPushButton(tr("Look for all of them…"))),
      buttons_(new QDialogButtonBox(QDialogButtonBox::Close)), outcome_(new QLabel)
{
    setWindowTitle(tr("Findings"));
    setObjectName("findingsDialog");
    resize(620, 430);
    list_->setObjectName("findingsList");
    mend_->setObjectName("mend");
    lookFor_->setObjectName("lookFor");
    lookFor_->setToolTip(
        tr("Looks in a folder, and all below it, for every sound that is missing: by what is in it, or its name"));
    outcome_->setObjectName("lookedFor");
    outcome_->setWordWrap(true);
    outcome_->hide();
    text_->setWordWrap(true);
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    text_->setMinimumHeight(76);
    text_->setAlignment(Qt::AlignTop);
    buttons_->addButton(go_, QDialogButtonBox::ActionRole);
    buttons_->addButton(mend_, QDialogButtonBox::ActionRole);
    buttons_->addButton(lookFor_, QDialogButtonBox::ActionRole);
    connect(lookFor_, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("Where may the missing sounds be?"));
        if (!folder.isEmpty()) {
            lookIn(folder);
        }
    });
    auto* floor = buttons_->addButton(tr("Look over the whole floor"), QDialogButtonBox::ActionRole);
    floor->setObjectName("lookOverFloor");
    floor->setToolTip(tr("Where nothing is heard, who is heard nowhere, holes between zones, what matters and is masked: a "
                         "metre and a half apart over every storey"));
    connect(floor, &QPushButton::clicked, this, &FindingsDialog::lookOverFloor);
    connect(&session_, &Session::documentChanged, this, [this] {
        overFloor_.clear();
        refresh();
    });
    auto* box = new QVBoxLayout(this);
    box->addWidget(list_, 1);
    box->addWidget(text_);
    box->addWidget(outcome_);
    box->addWidget(buttons_);
    connect(buttons_, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(list_, &RowList::chosen, this, &FindingsDialog::showFinding);
    connect(list_, &QListView::activated, go_, &QPushButton::click);
    connect(go_, &QPushButton::clicked, this, [this] {
        if (const auto finding = current(); finding && !placeOf(*finding).empty()) {
            emit emitterWanted(placeOf(*finding));
            accept();
        }
    });
    connect(mend_, &QPushButton::clicked, this, &FindingsDialog::mend);
    connect(&session_, &Session::findingsChanged, this, &FindingsDialog::refresh);
    refresh();
}

std::vector<Finding> FindingsDialog::all() const
{
    std::vector<Finding> findings = session_.findings();
    findings.insert(findings.end(), overFloor_.begin(), overFloor_.end());
    return findings;
}

std::optional<Finding> FindingsDialog::current() const
{
    bool ok = false;
    const int index = list_->currentKey().toInt(&ok);
    const std::vector<Finding> findings = all();
    return ok && index < static_cast<int>(findings.size()) ? std::optional(findings[static_cast<std::size_t>(index)])
                                                           : std::nullopt;
}

/// On another thread: every storey of the level, cell by cell.
void FindingsDialog::lookOverFloor()
{
    const auto stop = std::make_shared<std::atomic<bool>>(false);
    const auto part = std::make_shared<std::atomic<double>>(0.0);
    auto* progress = new QProgressDialog(tr("Looking over the whole floor…"), tr("Stop"), 0, 100, this);
    progress->setObjectName("floorProgress");
    progress->setAttribute(Qt::WA_DeleteOnClose);
    progress->setMinimumDuration(400);
    progress->setAutoClose(false);
    connect(progress, &QProgressDialog::canceled, this, [stop] { *stop = true; });
    connect(progress, &QObject::destroyed, [stop] { *stop = true; });
    auto* ticks = new QTimer(progress);
    connect(ticks, &QTimer::timeout, progress, [progress, part] { progress->setValue(static_cast<int>(100.0 * *part)); });
    ticks->start(100);
    auto* looking = new QFutureWatcher<std::vector<Finding>>(this);
    connect(looking, &QFutureWatcherBase::finished, this, [this, looking, stop, progress = QPointer(progress)] {
        const bool stopped = *stop;
        overFloor_ = looking->result();
        looking->deleteLater();
        if (progress) {
            progress->close();
        }
        refresh();
        outcome_->setText(stopped ? tr("Stopped: the floor was not looked over.")
                          : overFloor_.empty()
                              ? tr("Over the whole floor nothing was found that needs a look.")
                              : tr("Over the whole floor: %n more.", nullptr, static_cast<int>(overFloor_.size())));
        outcome_->show();
    });
    looking->setFuture(QtConcurrent::run(&workPool(), [scene = scene_, stop, part] {
        return findOverFloor(scene->model, bandsOf(*scene), 1, [&](double done) {
            *part = done;
            return !*stop;
        });
    }));
}

void FindingsDialog::refresh()
{
    std::vector<Row> rows;
    int index = 0;
    for (const Finding& finding : all()) {
        Row row;
        row.key = QString::number(index++);
        row.title = QString::fromStdString(finding.what);
        row.detail = QString("%1 · %2").arg(nameOf(finding.severity), QString::fromStdString(finding.where));
        row.warning = finding.severity == Finding::Severity::error;
        rows.push_back(std::move(row));
    }
    list_->setRows(std::move(rows));
    if (list_->currentKey().isEmpty()) {
        list_->setCurrentKey("0");
    }
    showFinding();
}

void FindingsDialog::showFinding()
{
    const auto finding = current();
    go_->setEnabled(finding && !placeOf(*finding).empty());
    for (QPushButton* button : remedies_) {
        button->deleteLater();
    }
    remedies_.clear();
    for (std::size_t i = 0; finding && i < finding->remedies.size(); ++i) {
        const Remedy& remedy = finding->remedies[i];
        auto* button = buttons_->addButton(QString::fromStdString(remedy.label), QDialogButtonBox::ActionRole);
        button->setObjectName(QString("remedy%1").arg(i));
        // The remedy itself is kept, not a way to it: the findings are looked for anew as soon as something changes.
        connect(button, &QPushButton::clicked, this,
                [this, remedy] { session_.edit(remedy.apply(session_.project()), QString::fromStdString(remedy.label)); });
        remedies_.push_back(button);
    }
    mend_->setVisible(finding && (finding->code == "sound-missing" || finding->code == "sound-unreadable" ||
                                  finding->code == "sound-outside" || finding->code == "level-unreadable"));
    lookFor_->hide();
    if (!finding) {
        text_->setText(tr("Nothing was found that needs a look."));
        return;
    }
    lookFor_->setVisible(finding->code == "sound-missing");
    mend_->setText(finding->sound.empty() ? tr("Choose the level…") : tr("Relocate the sound…"));
    text_->setText(tr("<b>%1</b><br>%2: %3.")
                       .arg(QString::fromStdString(finding->what).toHtmlEscaped(),
                            QString::fromStdString(finding->where).toHtmlEscaped(),
                            QString::fromStdString(finding->fix).toHtmlEscaped()));
}

EmitterId FindingsDialog::placeOf(const Finding& finding) const
{
    if (!finding.emitter.empty() || finding.sound.empty()) {
        return finding.emitter;
    }
    for (const auto& emitter : session_.level().emitters) {
        if (emitter->sound == finding.sound) {
            return emitter->id;
        }
    }
    return {};
}

void FindingsDialog::mend()
{
    const auto finding = current();
    if (!finding) {
        return;
    }
    if (finding->sound.empty()) {
        emit levelSettingsWanted();
        return;
    }
    const SoundId id = finding->sound;
    const QString file =
        QFileDialog::getOpenFileName(this, tr("Where is the sound now?"), QString::fromStdString(session_.folder().string()),
                                     tr("Sounds (*.wav *.flac *.ogg *.opus *.mp3 *.aiff *.aif)"));
    if (!file.isEmpty()) {
        session_.relocateSound(id, finding->file, file);
    }
}

void FindingsDialog::lookIn(const QString& folder)
{
    const std::vector<MissingFile> missing = session_.missingSounds();
    const auto stop = std::make_shared<std::atomic<bool>>(false);
    auto* progress = new QProgressDialog(tr("Looking for missing sounds in %1…").arg(folder), tr("Stop"), 0, 0, this);
    progress->setAttribute(Qt::WA_DeleteOnClose);
    progress->setMinimumDuration(400);
    connect(progress, &QProgressDialog::canceled, this, [stop] { *stop = true; });
    connect(progress, &QObject::destroyed, [stop] { *stop = true; });
    auto* looking = new QFutureWatcher<std::vector<FoundAgain>>(this);
    connect(looking, &QFutureWatcherBase::finished, this, [this, looking, missing, progress = QPointer(progress)] {
        const std::vector<FoundAgain> found = looking->result();
        looking->deleteLater();
        if (progress) {
            progress->close();
        }
        session_.takeFound(found);
        QStringList still;
        for (const MissingFile& one : missing) {
            if (std::none_of(found.begin(), found.end(), [&](const FoundAgain& f) { return f.file == one.file; })) {
                still << QString::fromStdString(one.file);
            }
        }
        constexpr qsizetype mostNamed = 3;
        const QString more = still.size() > mostNamed ? tr(" and %1 more").arg(still.size() - mostNamed) : QString();
        outcome_->setText(
            tr("Found %1 of %2.").arg(found.size()).arg(missing.size()) +
            (still.isEmpty()
                 ? QString()
                 : tr(" Not found, or more than one like it: %1%2.").arg(still.mid(0, mostNamed).join(", "), more)));
        outcome_->show();
    });
    looking->setFuture(QtConcurrent::run(&workPool(), [missing, path = std::filesystem::path(folder.toStdString()), stop] {
        return findAgain(missing, path, [stop] { return stop->load(); });
    }));
}

} // namespace stone
