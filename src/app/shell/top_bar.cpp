// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/top_bar.h"

#include "app/session/take_desk.h"
#include "app/theme/labels.h"
#include "app/widgets/name_chooser.h"
#include "app/widgets/still_place.h"
#include "dsp/decibel.h"
#include "world/walk_making.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// Of the time in a walk, for each second: finer ones would be painted for nobody to see.
constexpr double timeSteps = 10.0;

/// A caption over what it names.
QVBoxLayout* stacked(const QString& text, QWidget* below)
{
    auto* box = new QVBoxLayout;
    box->setSpacing(0);
    box->addWidget(theme::caption(text));
    box->addWidget(below);
    return box;
}

} // namespace

LevelMeter::LevelMeter(QWidget* parent) : QWidget(parent)
{
    setFixedSize(sizeHint());
    setAccessibleName(tr("Level of the output, left and right"));
}

void LevelMeter::showLevels(const ChannelGains& peak, const ChannelGains& rms_db)
{
    if (peak == peak_ && rms_db == rms_db_) {
        return;
    }
    peak_ = peak;
    rms_db_ = rms_db;
    setToolTip(tr("left %1 dB RMS, peak %2 dB\nright %3 dB RMS, peak %4 dB")
                   .arg(theme::decibels(rms_db[0]), theme::decibels(levelOf(peak[0])), theme::decibels(rms_db[1]),
                        theme::decibels(levelOf(peak[1]))));
    update();
}

void LevelMeter::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    const auto xOf = [this](double db) { return std::clamp((db + 60.0) / 60.0, 0.0, 1.0) * width(); };
    for (std::size_t channel = 0; channel < 2; ++channel) {
        const double y = channel == 0 ? 1.0 : 8.0;
        painter.fillRect(QRectF(0, y, width(), 5), theme::line);
        const double rms = std::isfinite(rms_db_[channel]) ? static_cast<double>(rms_db_[channel]) : -200.0;
        painter.fillRect(QRectF(0, y, xOf(rms), 5), theme::verdigris);
        const double peak = levelOf(peak_[channel]);
        if (peak > -60.0) {
            painter.fillRect(QRectF(xOf(peak) - 2, y, 2, 5), peak >= 0.0 ? theme::cinnabar : theme::ink);
        }
    }
}

TopBar::TopBar(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), title_(new QLabel), subtitle_(theme::caption({})),
      listen_(new QPushButton), walks_(new NameChooser), walkActs_(new QToolButton), play_(new QToolButton),
      time_(new QSlider(Qt::Horizontal)), clock_(new QLabel), output_(new NameChooser), layout_(new OutputMenu(playback)),
      loudness_(new QLabel), meter_(new LevelMeter), voices_(new QLabel)
{
    setAutoFillBackground(true);
    title_->setFont(theme::text(12, QFont::Bold));
    title_->setMinimumWidth(100);
    listen_->setObjectName("listen");
    listen_->setCheckable(true);
    listen_->setToolTip(tr("Start or stop the sound (Space)"));
    walks_->setObjectName("walks");
    walks_->setAccessibleName(tr("Walk"));
    walks_->setMinimumWidth(130);
    walks_->setMaximumWidth(160);
    walkActs_->setObjectName("walkActs");
    walkActs_->setText(QStringLiteral("⋯"));
    walkActs_->setAccessibleName(tr("What can be done with walks"));
    walkActs_->setToolTip(tr("Draw or record a walk, or change this one"));
    walkActs_->setPopupMode(QToolButton::InstantPopup);
    walkActs_->setMenu(makeWalkMenu());
    play_->setObjectName("playWalk");
    play_->setToolTip(tr("Follow the walk, or pause it (P)"));
    time_->setObjectName("walkTime");
    time_->setAccessibleName(tr("Time in the walk"));
    time_->setFixedWidth(80);
    clock_->setFont(theme::number(9, QFont::Bold));
    clock_->setMinimumWidth(116);
    output_->setObjectName("output");
    output_->setAccessibleName(tr("Output"));
    output_->setMinimumWidth(120);
    output_->setMaximumWidth(136);
    loudness_->setFont(theme::number(9, QFont::Bold));
    loudness_->setMinimumWidth(86);
    loudness_->setToolTip(tr("Integrated loudness since listening began; the bars show level and peak of both ears"));
    voices_->setFont(theme::number(9, QFont::Bold));
    voices_->setMinimumWidth(56);
    voices_->setToolTip(tr("Copies that are mixed, and the most that may be"));

    auto* box = new QHBoxLayout(this);
    box->setContentsMargins(14, 4, 12, 4);
    box->setSpacing(8);
    auto* names = new QVBoxLayout;
    names->setSpacing(0);
    names->addWidget(title_);
    names->addWidget(subtitle_);
    box->addLayout(names);
    box->addStretch(1);
    box->addWidget(listen_);
    box->addSpacing(6);
    auto* walkCaption = theme::caption(tr("Walk"));
    box->addWidget(walkCaption);
    box->addWidget(walks_);
    box->addWidget(walkActs_);
    box->addWidget(play_);
    box->addWidget(time_);
    box->addWidget(new StillPlace(clock_));
    box->addStretch(1);
    auto* outCaption = theme::caption(tr("Out"));
    box->addWidget(outCaption);
    box->addWidget(output_);
    box->addWidget(layout_);
    box->addSpacing(4);
    box->addLayout(stacked(tr("Loudness"), new StillPlace(loudness_)));
    box->addWidget(meter_);
    box->addSpacing(4);
    box->addLayout(stacked(tr("Voices"), new StillPlace(voices_)));
    whereThereIsRoom_ = {walkCaption, outCaption, time_, meter_};
    constexpr int narrowest_px = 960;
    setMinimumWidth(narrowest_px); // what has no room then is hidden

    connect(listen_, &QPushButton::clicked, this, [this] {
        emit listenWanted();
        refreshTransport();
    });
    connect(&playback_.takes(), &TakeDesk::playingChanged, this, &TopBar::refreshTransport);
    connect(&playback_.takes(), &TakeDesk::takeChanged, this, &TopBar::refreshTransport);
    connect(walks_, &QComboBox::activated, this,
            [this](int index) { playback_.chooseWalk({walks_->itemData(index).toString().toStdString()}); });
    connect(play_, &QToolButton::clicked, this, [this] { playback_.setWalking(!playback_.walking()); });
    connect(time_, &QSlider::valueChanged, this, [this](int value) { playback_.seekWalk(value / timeSteps); });
    connect(output_, &QComboBox::activated, this,
            [this](int index) { playback_.chooseOutput(output_->itemData(index).toString()); });
    connect(&session_, &Session::documentChanged, this, &TopBar::refreshWalks);
    connect(&session_, &Session::documentChanged, this, &TopBar::refreshProject);
    connect(&session_, &Session::fileChanged, this, &TopBar::refreshProject);
    connect(&session_, &Session::levelChanged, this, &TopBar::refreshProject);
    connect(&playback_, &Playback::walkChanged, this, &TopBar::refreshWalks);
    connect(&playback_, &Playback::listeningChanged, this, &TopBar::refreshTransport);
    connect(&playback_, &Playback::ticked, this, [this] {
        refreshTransport();
        refreshMeters();
    });
    refreshProject();
    refreshWalks();
    refreshOutputs();
    refreshTransport();
    refreshMeters();
}

void TopBar::resizeEvent(QResizeEvent* event)
{
    constexpr int wide_px = 1230;
    for (QWidget* widget : whereThereIsRoom_) {
        widget->setVisible(width() >= wide_px);
    }
    QWidget::resizeEvent(event);
}

void TopBar::refreshProject()
{
    const Project& project = session_.project();
    QStringList parts;
    if (!project.subtitle.empty()) {
        parts << QString::fromStdString(project.subtitle);
    }
    if (project.levels.size() > 1) {
        parts << QString::fromStdString(session_.level().name);
    }
    parts << tr("1 unit = %1 m").arg(session_.level().metresPerUnit);
    title_->setText(QString::fromStdString(project.name));
    const QString all = parts.join(" · ");
    if (all != subtitle_->toolTip()) {
        // A long line must not push the window wide: what does not fit is in the tool tip.
        constexpr int widest = 190;
        subtitle_->setText(subtitle_->fontMetrics().elidedText(all, Qt::ElideRight, widest));
        subtitle_->setToolTip(all);
    }
}

QMenu* TopBar::makeWalkMenu()
{
    auto* menu = new QMenu(this);
    menu->setObjectName("walkMenu");
    menu->addAction(tr("Draw a walk on the Plan"), this, &TopBar::drawWalkWanted);
    QAction* record = menu->addAction({}, this, [this] { playback_.setRecording(!playback_.recording()); });
    menu->addSeparator();
    const auto withWalk = [this, menu](const QString& text, const std::function<void()>& act) {
        return menu->addAction(text, this, [this, act] {
            session_.selectThing<Walk>(playback_.walk());
            act();
        });
    };
    const QList<QAction*> ofWalk{
        withWalk(tr("Set up this walk"), [] {}), withWalk(tr("Double it"), [this] { session_.duplicateSelected(); }),
        withWalk(tr("Turn it round"),
                 [this] {
                     session_.editThing<Walk>(tr("turned round"), {}, [](Walk& walk) { walk = turnedRound(std::move(walk)); });
                 }),
        withWalk(tr("Delete it"), [this] { session_.deleteSelected(); })};
    connect(menu, &QMenu::aboutToShow, this, [this, record, ofWalk] {
        record->setText(playback_.recording() ? tr("End the recording") : tr("Record while you walk"));
        for (QAction* action : ofWalk) {
            action->setEnabled(session_.level().walks.find(playback_.walk()) != nullptr);
        }
    });
    return menu;
}

void TopBar::refreshWalks()
{
    const QSignalBlocker quiet(walks_);
    walks_->clear();
    for (const auto& walk : session_.level().walks) {
        walks_->addItem(QString::fromStdString(walk->name), QString::fromStdString(walk->id.text));
    }
    walks_->setPlaceholderText(tr("none yet"));
    walks_->setCurrentIndex(walks_->findData(QString::fromStdString(playback_.walk().text)));
    walks_->setEnabled(walks_->count() > 0);
    const QSignalBlocker quietTime(time_);
    time_->setRange(0, static_cast<int>(playback_.walkLength_s() * timeSteps));
    refreshTransport();
}

void TopBar::refreshOutputs()
{
    output_->clear();
    output_->addItem(tr("Usual output"), QString());
    for (const QString& name : outputs()) {
        output_->addItem(name, name);
    }
}

void TopBar::refreshTransport()
{
    const bool listening = playback_.listening() || playback_.takes().playing();
    listen_->setChecked(listening);
    listen_->setText(listening ? tr("■ Stop") : playback_.takes().take() ? tr("▶ The take") : tr("▶ Listen"));
    const bool any = !playback_.walk().empty();
    play_->setEnabled(any);
    time_->setEnabled(any);
    play_->setText(playback_.walking() ? QStringLiteral("❚❚") : QStringLiteral("▶"));
    clock_->setText(any ? theme::clock(playback_.walk_s()) + " / " + theme::clock(playback_.walkLength_s()) : QString());
    if (!time_->isSliderDown()) {
        const QSignalBlocker quiet(time_);
        time_->setValue(static_cast<int>(playback_.walk_s() * timeSteps));
    }
    output_->setToolTip(playback_.listening() ? playback_.output().name() : tr("Where the sound goes"));
}

void TopBar::refreshMeters()
{
    const auto& snapshot = playback_.snapshot();
    const int limit = session_.project().voices;
    if (const auto& taken = playback_.takes().moment()) {
        showLoudness(taken->integrated_lufs);
        meter_->showLevels({}, {-200.0F, -200.0F});
        showVoices(taken->voices, limit, taken->gaveWay);
        return;
    }
    if (!snapshot) {
        loudness_->setText(tr("–"));
        showVoices(0, limit, 0);
        meter_->showLevels({}, {-200.0F, -200.0F});
        return;
    }
    showLoudness(snapshot->integrated_lufs);
    meter_->showLevels(snapshot->peak, snapshot->rms_db);
    showVoices(snapshot->voices, limit, snapshot->gaveWay);
}

void TopBar::showLoudness(double lufs)
{
    loudness_->setText(std::isfinite(lufs) && lufs > -70.0 ? theme::signedNumber(lufs, 1) + " LUFS" : tr("quiet"));
}

void TopBar::showVoices(std::size_t voices, int limit, std::size_t gaveWay)
{
    voices_->setText(QString("%1 / %2").arg(voices).arg(limit));
    if (gaveWay == gaveWay_) {
        return;
    }
    // A new style sheet lays out the whole bar again: only when there is something new to say.
    gaveWay_ = gaveWay;
    voices_->setToolTip(gaveWay > 0 ? tr("%1 gave way: In earshot says to whom").arg(gaveWay)
                                    : tr("Copies that are mixed, and the most that may be"));
    voices_->setStyleSheet(gaveWay > 0 ? "color: " + theme::cinnabar.name() : QString());
}

} // namespace stone
