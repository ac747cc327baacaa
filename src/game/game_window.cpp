// SPDX-License-Identifier: GPL-3.0-or-later
#include "game/game_window.h"

#include "app/theme/theme.h"

#include <QComboBox>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QSlider>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace stone::game
{

namespace
{

constexpr int picture_ms = 16;
constexpr double swing_s = 0.6;
/// So often it says hello: Stone Echo may be started later, or anew.
constexpr double helloEvery_s = 2.0;
/// A thing that was put somewhere goes to and fro on a line ahead.
constexpr double thingGoes_m = 6.0;
constexpr double thingTakes_s = 4.0;
constexpr std::size_t mostShown = 12;
constexpr int sliderSteps = 100;

QLabel* heading(const QString& words)
{
    auto* label = new QLabel(words);
    label->setFont(theme::text(9.5, QFont::DemiBold));
    return label;
}

QLabel* lines(const char* name)
{
    auto* label = new QLabel;
    label->setObjectName(name);
    label->setWordWrap(true);
    label->setFont(theme::text(9));
    label->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    return label;
}

} // namespace

GameWindow::GameWindow(const std::shared_ptr<const Project>& project, const Level& level, std::shared_ptr<const Ground> ground,
                       const std::string& host, int port)
    : project_(project), level_(level), ground_(std::move(ground)),
      teller_(host, port, *project, level), feet_{level.character.start, level.character.heading_deg}, sheet_(new LevelSheet),
      state_(lines("gameState")), heard_(lines("gameHeard"))
{
    setObjectName("gameWindow");
    setWindowTitle(tr("A pretend game in %1").arg(QString::fromStdString(level.name)));
    setFocusPolicy(Qt::StrongFocus);
    std::shared_ptr<const PlanCutter> cutter;
    if (ground_) {
        cutter = std::make_shared<const PlanCutter>(ground_->mesh());
    }
    walker_.setLevel(cutter, ground_);
    sheet_->setLevel(level_, cutter);
    connect(sheet_, &LevelSheet::doorClicked, this, &GameWindow::openDoor);

    auto* all = new QHBoxLayout(this);
    auto* left = new QVBoxLayout;
    left->addWidget(sheet_, 1);
    auto* keys = new QLabel(tr("W A S D walk, Q E turn, Shift hurries, Space jumps, F uses what is near. "
                               "This game plays no sound: Stone Echo does, while it listens along."));
    keys->setWordWrap(true);
    left->addWidget(keys);
    all->addLayout(left, 1);
    auto* side = new QWidget;
    side->setFixedWidth(260);
    auto* box = new QVBoxLayout(side);
    box->setContentsMargins(0, 0, 0, 0);
    box->addWidget(heading(tr("Stone Echo")));
    box->addWidget(state_);
    addSignals(box);
    addValues(box);
    addThings(box);
    box->addWidget(heading(tr("Heard, as Stone Echo tells")));
    box->addWidget(heard_, 1);
    all->addWidget(side);
    resize(860, 560);

    timer_.setTimerType(Qt::PreciseTimer);
    timer_.setInterval(picture_ms);
    connect(&timer_, &QTimer::timeout, this, [this] { pass(std::min(static_cast<double>(since_.restart()) / 1000.0, 0.1)); });
    since_.start();
    timer_.start();
    pass(0.0);
}

void GameWindow::addSignals(QVBoxLayout* box)
{
    if (project_->signalNames.empty()) {
        return;
    }
    box->addWidget(heading(tr("Signals")));
    for (const auto& signal : project_->signalNames) {
        auto* button = new QPushButton(QString::fromStdString(signal->name));
        button->setFocusPolicy(Qt::TabFocus);
        connect(button, &QPushButton::clicked, this, [this, name = signal->name] {
            teller_.say(GameWord{.kind = GameWord::Kind::signal, .name = name});
            teller_.flush();
        });
        box->addWidget(button);
    }
}

void GameWindow::addValues(QVBoxLayout* box)
{
    if (project_->gameValues.empty()) {
        return;
    }
    box->addWidget(heading(tr("Values")));
    for (const auto& value : project_->gameValues) {
        auto* slider = new QSlider(Qt::Horizontal);
        slider->setFocusPolicy(Qt::TabFocus);
        slider->setAccessibleName(QString::fromStdString(value->name));
        slider->setRange(0, sliderSteps);
        const double range = value->most - value->least;
        slider->setValue(range > 0.0 ? qRound((value->rest - value->least) / range * sliderSteps) : 0);
        connect(slider, &QSlider::valueChanged, this, [this, range, name = value->name, least = value->least](int step) {
            teller_.say(GameWord{.kind = GameWord::Kind::value,
                                 .name = name,
                                 .number = least + range * static_cast<double>(step) / sliderSteps});
            teller_.flush();
        });
        box->addWidget(new QLabel(QString::fromStdString(value->name)));
        box->addWidget(slider);
    }
}

void GameWindow::addThings(QVBoxLayout* box)
{
    if (project_->patterns.empty()) {
        return;
    }
    box->addWidget(heading(tr("Things")));
    pattern_ = new QComboBox;
    pattern_->setObjectName("gamePattern");
    pattern_->setFocusPolicy(Qt::TabFocus);
    pattern_->setAccessibleName(tr("What appears"));
    for (const auto& pattern : project_->patterns) {
        pattern_->addItem(QString::fromStdString(pattern->name));
    }
    box->addWidget(pattern_);
    auto* row = new QHBoxLayout;
    const auto add = [&](const char* name, const QString& words, void (GameWindow::*act)()) {
        auto* button = new QPushButton(words);
        button->setObjectName(name);
        button->setFocusPolicy(Qt::TabFocus);
        connect(button, &QPushButton::clicked, this, act);
        row->addWidget(button);
    };
    add("putThing", tr("Appears ahead"), &GameWindow::putThing);
    add("takeThing", tr("Goes"), &GameWindow::takeThing);
    box->addLayout(row);
}

void GameWindow::putThing()
{
    const std::string pattern = pattern_->currentText().toStdString();
    Pose from = feet_;
    from.at += aheadOf(feet_.heading_deg, 0.0) * 2.0 + Vec3{0.0, 0.0, 1.0};
    things_.push_back({pattern + ' ' + std::to_string(++puts_), from, now_s_});
    teller_.say(GameWord{.kind = GameWord::Kind::appear, .name = things_.back().name, .of = pattern, .pose = from});
    teller_.flush();
}

void GameWindow::takeThing()
{
    if (!things_.empty()) {
        teller_.say(GameWord{.kind = GameWord::Kind::gone, .name = things_.back().name});
        teller_.flush();
        things_.pop_back();
    }
}

Pose GameWindow::poseOf(const Put& put) const
{
    const double phase = (now_s_ - put.since_s) / thingTakes_s * std::numbers::pi;
    Pose pose = put.from;
    pose.at += aheadOf(put.from.heading_deg, 0.0) * (thingGoes_m * (1.0 - std::cos(phase)) / 2.0);
    return pose;
}

void GameWindow::openDoor(const OpeningId& id)
{
    const Opening* door = level_.openings.find(id);
    const double now = wanted_.contains(id) ? wanted_[id] : door->open;
    doors_.emplace(id, door->open);
    wanted_[id] = now > 0.5 ? 0.0 : 1.0;
}

void GameWindow::tellOfDoors(double seconds)
{
    for (auto& [id, open] : doors_) {
        const double step = seconds / swing_s;
        const double next = std::clamp(wanted_[id], open - step, open + step);
        if (std::exchange(open, next) != next) {
            teller_.say({.opening = std::pair(id, next)});
        }
    }
}

void GameWindow::pass(double seconds)
{
    now_s_ += seconds;
    walker_.step(feet_, level_, seconds);
    teller_.say(GameWord{.kind = GameWord::Kind::character, .pose = feet_});
    tellOfDoors(seconds);
    std::vector<LevelSheet::Thing> shown;
    for (const Put& put : things_) {
        const Pose pose = poseOf(put);
        teller_.say(GameWord{.kind = GameWord::Kind::thing, .name = put.name, .pose = pose});
        shown.push_back({QString::fromStdString(put.name), pose});
    }
    if (now_s_ - hello_s_ >= helloEvery_s) {
        hello_s_ = now_s_;
        teller_.hello();
    }
    teller_.flush();
    teller_.listen();
    sheet_->show(feet_, doors_, shown);
    showAnswers();
}

void GameWindow::showAnswers()
{
    QString state = teller_.answered()
                        ? tr("It listens along.")
                        : tr("It does not listen along: Walk › Listen along to a game, or stone-echo-cli follow.");
    if (!teller_.changed().empty()) {
        state += '\n' + tr("Changed there: %1").arg(QString::fromStdString(teller_.changed()));
    }
    state_->setText(state);
    std::vector<std::pair<double, std::string>> loudest;
    for (const auto& [name, level_db] : teller_.heard()) {
        loudest.emplace_back(-level_db, name);
    }
    std::sort(loudest.begin(), loudest.end());
    QString heard;
    for (std::size_t i = 0; i < std::min(loudest.size(), mostShown); ++i) {
        heard += theme::decibels(-loudest[i].first) + "  " + QString::fromStdString(loudest[i].second) + '\n';
    }
    heard_->setText(heard.isEmpty() ? tr("nothing yet") : heard);
}

void GameWindow::press(int key, bool down)
{
    const int on = down ? 1 : 0;
    switch (key) {
    case Qt::Key_W:
    case Qt::Key_Up: input_.ahead = on; break;
    case Qt::Key_S:
    case Qt::Key_Down: input_.ahead = -on; break;
    case Qt::Key_D: input_.right = on; break;
    case Qt::Key_A: input_.right = -on; break;
    case Qt::Key_E:
    case Qt::Key_Right: input_.turn = on; break;
    case Qt::Key_Q:
    case Qt::Key_Left: input_.turn = -on; break;
    case Qt::Key_Shift: input_.fast = down; break;
    case Qt::Key_Space:
        if (down) {
            walker_.jump();
        }
        break;
    case Qt::Key_F:
        if (down) {
            teller_.say(GameWord{.kind = GameWord::Kind::act, .act = Cause::interact});
            teller_.flush();
        }
        break;
    default: return;
    }
    walker_.setInput(input_, feet_.heading_deg, level_.character.moves);
}

void GameWindow::keyPressEvent(QKeyEvent* event)
{
    if (!event->isAutoRepeat()) {
        press(event->key(), true);
    }
}

void GameWindow::keyReleaseEvent(QKeyEvent* event)
{
    if (!event->isAutoRepeat()) {
        press(event->key(), false);
    }
}

/// Keys that are held when the window loses them are never let go here.
void GameWindow::focusOutEvent(QFocusEvent* event)
{
    input_ = {};
    walker_.setInput(input_, feet_.heading_deg, level_.character.moves);
    QWidget::focusOutEvent(event);
}

} // namespace stone::game
