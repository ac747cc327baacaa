// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/renders_tab.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "engine/offline.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLocale>
#include <QSettings>
#include <QVBoxLayout>
#include <QtConcurrent>

namespace stone
{

namespace
{

const QString rendersKey = QStringLiteral("export/renders/%1");
constexpr int renderRates[] = {48'000, 44'100, 96'000, 32'000, 24'000};
constexpr int thousand = 1000;

/// What is rendered, as the chooser has it.
constexpr int ofWalk = 0;
constexpr int ofRooms = 1;
constexpr int ofSound = 2;

constexpr int nameColumn = 0;
constexpr int lengthColumn = 1;
constexpr int peakColumn = 2;

QString wordsOf(Layout layout)
{
    switch (layout) {
    case Layout::mono: return RendersTab::tr("Mono");
    case Layout::stereo: return RendersTab::tr("Stereo");
    case Layout::binaural: return RendersTab::tr("Headphones");
    case Layout::quad: return RendersTab::tr("Quad");
    case Layout::ambix1: return RendersTab::tr("AmbiX, order 1");
    case Layout::ambix2: return RendersTab::tr("AmbiX, order 2");
    case Layout::ambix3: return RendersTab::tr("AmbiX, order 3");
    default: return QString::fromUtf8(nameOf(layout));
    }
}

} // namespace

RendersTab::RendersTab(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), kind_(new QComboBox), of_(new NameChooser),
      count_(new NumberField(tr("directions"), 1, 360, 0, 1)), many_(new QWidget), one_(new QComboBox), rate_(new QComboBox),
      list_(fileList("rendersList", tr("Files"), {tr("file"), tr("length"), tr("highest")})),
      folder_(new FolderRow("renders", tr("A folder for the renders"))), end_(new WritingRow("renders"))
{
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(tr("Sound as it is heard, as WAV files of floats, for a game that does less by itself, or "
                                       "to compare with what it does.")));
    const QSettings settings;
    kind_->setObjectName("rendersKind");
    kind_->setAccessibleName(tr("What is rendered"));
    kind_->addItems({tr("a walk, in several layouts"), tr("what each room answers"), tr("a sound from all round")});
    kind_->setCurrentIndex(settings.value(rendersKey.arg("kind"), 0).toInt());
    of_->setObjectName("rendersOf");
    of_->setAccessibleName(tr("Of what"));
    count_->setObjectName("rendersCount");
    count_->setAccessibleName(tr("Directions"));
    count_->present(settings.value(rendersKey.arg("count"), 8).toDouble());
    one_->setObjectName("rendersLayout");
    one_->setAccessibleName(tr("Layout"));
    rate_->setObjectName("rendersRate");
    rate_->setAccessibleName(tr("Rate"));
    for (const int rate : renderRates) {
        rate_->addItem(tr("%1 Hz").arg(rate), rate);
    }
    rate_->setCurrentIndex(std::max(rate_->findData(settings.value(rendersKey.arg("rate"), renderRates[0])), 0));
    auto* first = new QHBoxLayout;
    first->addWidget(kind_, 1);
    first->addWidget(of_, 1);
    box->addLayout(first);
    auto* second = new QHBoxLayout;
    second->addWidget(count_);
    second->addWidget(one_);
    second->addStretch();
    second->addWidget(rate_);
    box->addLayout(second);
    auto* grid = new QGridLayout(many_);
    grid->setContentsMargins(0, 0, 0, 0);
    constexpr int inRow = 5;
    const QStringList known = settings.value(rendersKey.arg("layouts"), QStringList{"stereo", "binaural"}).toStringList();
    for (std::size_t i = 0; i < layoutCount; ++i) {
        const auto layout = static_cast<Layout>(i);
        const QString key = QString::fromUtf8(nameOf(layout));
        auto* tick = new QCheckBox(wordsOf(layout));
        tick->setObjectName("rendersLayout_" + key);
        tick->setChecked(known.contains(key));
        grid->addWidget(tick, static_cast<int>(i) / inRow, static_cast<int>(i) % inRow);
        connect(tick, &QCheckBox::toggled, this, &RendersTab::list);
        layouts_.push_back(tick);
        one_->addItem(wordsOf(layout), static_cast<int>(i));
    }
    one_->setCurrentIndex(static_cast<int>(Layout::binaural));
    box->addWidget(many_);
    box->addWidget(list_, 1);
    folder_->present(settings.value(rendersKey.arg("folder")).toString(), session_.folder(), "renders");
    box->addWidget(folder_);
    box->addWidget(end_);
    connect(kind_, &QComboBox::currentIndexChanged, this, [this] {
        of_->clear();
        list();
    });
    connect(of_, &QComboBox::activated, this, &RendersTab::list);
    connect(count_, &QDoubleSpinBox::valueChanged, this, &RendersTab::list);
    connect(folder_, &FolderRow::changed, this, &RendersTab::refresh);
    connect(end_, &WritingRow::clicked, this, &RendersTab::write);
    connect(&rendering_, &QFutureWatcherBase::finished, this, &RendersTab::finished);
    list();
}

RendersTab::~RendersTab()
{
    if (job_) {
        job_->stopped = true;
    }
    rendering_.waitForFinished();
}

std::vector<Layout> RendersTab::ticked() const
{
    std::vector<Layout> in;
    for (std::size_t i = 0; i < layouts_.size(); ++i) {
        if (layouts_[i]->isChecked()) {
            in.push_back(static_cast<Layout>(i));
        }
    }
    return in;
}

/// The walk or the sound that is chosen; there must be one.
std::size_t RendersTab::chosen() const
{
    return static_cast<std::size_t>(std::max(of_->currentIndex(), 0));
}

RendersTab::What RendersTab::what() const
{
    const auto layout = static_cast<Layout>(one_->currentData().toInt());
    switch (kind_->currentIndex()) {
    case ofWalk: return Layouts{*session_.level().walks[chosen()], ticked()};
    case ofRooms: return Responses{layout};
    default: return Directions{*session_.project().sounds[chosen()], static_cast<int>(count_->value()), layout};
    }
}

std::vector<std::string> RendersTab::names() const
{
    const int kind = kind_->currentIndex();
    if (kind == ofRooms) {
        return responseFiles(session_.level());
    }
    if (of_->count() == 0) {
        return {};
    }
    return kind == ofWalk ? layoutFiles(*session_.level().walks[chosen()], ticked())
                          : directionFiles(*session_.project().sounds[chosen()], static_cast<int>(count_->value()));
}

void RendersTab::list()
{
    const int kind = kind_->currentIndex();
    if (of_->count() == 0 && kind == ofWalk) {
        for (const auto& one : session_.level().walks) {
            of_->addItem(QString::fromStdString(one->name));
        }
    } else if (of_->count() == 0 && kind == ofSound) {
        for (const auto& one : session_.project().sounds) {
            of_->addItem(QString::fromStdString(one->name));
        }
    }
    of_->setVisible(kind != ofRooms);
    count_->setVisible(kind == ofSound);
    many_->setVisible(kind == ofWalk);
    one_->setVisible(kind != ofWalk);
    const auto all = names();
    const QString known = kind == ofWalk && !all.empty()
                              ? theme::clock(session_.level().walks[static_cast<std::size_t>(of_->currentIndex())]->seconds())
                              : QString();
    list_->setRowCount(static_cast<int>(all.size()));
    for (int i = 0; i < list_->rowCount(); ++i) {
        list_->setItem(i, nameColumn, fileCell(QString::fromStdString(all[static_cast<std::size_t>(i)])));
        list_->setItem(i, lengthColumn, fileCell(known, true));
        list_->setItem(i, peakColumn, fileCell({}, true));
    }
    refresh();
}

void RendersTab::refresh()
{
    const bool busy = job_ != nullptr;
    for (QWidget* field : {static_cast<QWidget*>(kind_), static_cast<QWidget*>(of_), static_cast<QWidget*>(count_),
                           static_cast<QWidget*>(one_), static_cast<QWidget*>(rate_), static_cast<QWidget*>(folder_), many_}) {
        field->setEnabled(!busy);
    }
    end_->offer(tr("Render"), list_->rowCount() > 0 && !folder_->text().isEmpty());
    const int kind = kind_->currentIndex();
    end_->say(busy                                        ? tr("Being rendered to %1…").arg(folder_->text())
              : kind == ofWalk && of_->count() == 0       ? tr("The level has no walk yet: draw one first.")
              : kind == ofWalk && list_->rowCount() == 0  ? tr("Tick the layouts it is wanted in.")
              : kind == ofRooms && list_->rowCount() == 0 ? tr("No room of the level has reverb: there is nothing to answer.")
              : kind == ofSound && of_->count() == 0      ? tr("The project has no sounds yet.")
              : folder_->text().isEmpty()
                  ? tr("Choose a folder for them.")
                  : tr("%n files. Files of these names there are replaced.", nullptr, list_->rowCount()));
}

void RendersTab::Job::run()
{
    try {
        SoundBank bank(workingRate(rate), {Measure::peak, measures});
        const Rendering how{.project = project,
                            .level = level,
                            .ground = ground,
                            .resolve = filesInside(from),
                            .bank = bank,
                            .rate = rate,
                            .folder = folder,
                            .progress = [this](double share) {
                                thousandths = static_cast<int>(share * thousand);
                                return !stopped.load();
                            }};
        files = std::visit(
            [&](const auto& asked) {
                using Asked = std::decay_t<decltype(asked)>;
                if constexpr (std::is_same_v<Asked, Layouts>) {
                    return renderLayouts(how, asked.walk, asked.in);
                } else if constexpr (std::is_same_v<Asked, Responses>) {
                    return renderResponses(how, asked.in);
                } else {
                    return renderDirections(how, asked.sound, asked.count, asked.in);
                }
            },
            what);
    } catch (const std::exception& error) { // FileError says which file, and why
        trouble = error.what();
    }
}

void RendersTab::write()
{
    if (job_) {
        job_->stopped = true;
        return;
    }
    QSettings settings;
    QStringList inLayouts;
    for (const Layout layout : ticked()) {
        inLayouts << QString::fromUtf8(nameOf(layout));
    }
    settings.setValue(rendersKey.arg("kind"), kind_->currentIndex());
    settings.setValue(rendersKey.arg("count"), count_->value());
    settings.setValue(rendersKey.arg("layouts"), inLayouts);
    settings.setValue(rendersKey.arg("rate"), rate_->currentData());
    settings.setValue(rendersKey.arg("folder"), folder_->text());
    job_ = std::make_shared<Job>();
    job_->what = what();
    job_->project = session_.document();
    job_->level = session_.level().id;
    job_->ground = session_.loadedLevel().ground;
    job_->from = session_.folder();
    job_->folder = folder_->folder();
    job_->measures = session_.bank().measures();
    job_->rate = rate_->currentData().toInt();
    for (int i = 0; i < list_->rowCount(); ++i) {
        list_->item(i, peakColumn)->setText({});
    }
    end_->begin(thousand, [job = job_] { return job->thousandths.load(); });
    rendering_.setFuture(QtConcurrent::run(&workPool(), [job = job_] { job->run(); }));
    refresh();
}

void RendersTab::finished()
{
    end_->end();
    const std::shared_ptr<Job> done = std::exchange(job_, nullptr);
    bool over = false;
    for (std::size_t i = 0; i < done->files.size(); ++i) {
        const Rendered& one = done->files[i];
        list_->item(static_cast<int>(i), lengthColumn)->setText(theme::clock(one.seconds));
        list_->item(static_cast<int>(i), peakColumn)->setText(theme::signedNumber(one.loudest_db, 1) + tr(" dB"));
        over = over || one.loudest_db > 0.0;
    }
    refresh();
    if (!done->trouble.empty()) {
        end_->say(QString::fromStdString(done->trouble));
    } else if (done->stopped) {
        end_->say(tr("Stopped: %1 of %2 are written.").arg(done->files.size()).arg(list_->rowCount()));
    } else if (done->files.size() < static_cast<std::size_t>(list_->rowCount())) {
        end_->say(tr("Nothing can be rendered of it: its file cannot be read."));
    } else {
        end_->say(tr("Written to %1.").arg(folder_->text()) +
                  (over ? tr(" Some peak over full scale; a WAV of floats keeps that.") : QString()));
    }
}

} // namespace stone
