// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/falloff_editor.h"

#include "app/theme/labels.h"
#include "project/starting_points.h"

#include <QHBoxLayout>
#include <QMenu>
#include <QSignalBlocker>
#include <QVBoxLayout>

#include <cmath>

namespace stone
{

FalloffEditor::FalloffEditor(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), which_(new QComboBox), sharing_(new QPushButton),
      more_(new QToolButton), comparing_(theme::caption({})),
      lanes_(new LaneStack(LaneInput::distance,
                           {LaneProperty::level, LaneProperty::lowPass, LaneProperty::highPass, LaneProperty::spread,
                            LaneProperty::placement, LaneProperty::send, LaneProperty::interval, LaneProperty::pitch},
                           source()))
{
    which_->setObjectName("falloff");
    which_->setAccessibleName(tr("Falloff"));
    which_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    which_->setToolTip(tr("Which falloff this emitter uses. A shared one changes for all its users."));
    sharing_->setProperty("link", true);
    sharing_->setObjectName("falloffSharing");
    more_->setObjectName("falloffMore");
    more_->setText(QStringLiteral("⋯"));
    more_->setToolTip(tr("Starting points by situation, comparing"));
    more_->setAccessibleName(more_->toolTip());
    more_->setPopupMode(QToolButton::InstantPopup);
    more_->setMenu(new QMenu(more_));
    connect(more_->menu(), &QMenu::aboutToShow, this, &FalloffEditor::fillMenu);
    comparing_->setObjectName("comparing");

    auto* top = new QHBoxLayout;
    top->addWidget(which_, 1);
    top->addWidget(sharing_);
    top->addWidget(more_);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(4);
    box->addLayout(top);
    box->addWidget(comparing_);
    box->addWidget(lanes_);

    connect(which_, &QComboBox::activated, this, &FalloffEditor::chooseFalloff);
    connect(sharing_, &QPushButton::clicked, this, [this] {
        const Emitter* emitter = session_.subject();
        if (emitter != nullptr && std::holds_alternative<Falloff>(emitter->falloff)) {
            share();
        } else {
            makeOwn();
        }
    });
}

LaneStack::Source FalloffEditor::source()
{
    return {.lanes = [this] { return current().lanes; },
            .change = [this](std::vector<Lane> lanes, const QString& what,
                             const QString& gesture) { change(std::move(lanes), what, gesture); },
            .endGesture = [this] { session_.endGesture(); },
            .place = [this] { return earsDistance(); },
            .ghost =
                [this] {
                    // What is compared, else what is tried before it is accepted.
                    const auto& tried = playback_.otherwise().falloff;
                    const Emitter* subject = session_.subject();
                    const bool tries = tried && subject != nullptr && tried->emitter == subject->id;
                    return ghost_ ? ghost_->lanes : tries ? tried->lanes : std::vector<Lane>{};
                },
            .preview = [this](double x) { listenAt(x); },
            .endPreview = [this] { playback_.listenFrom({}); }};
}

Falloff FalloffEditor::current() const
{
    const Emitter* emitter = session_.subject();
    return emitter != nullptr ? falloffOf(session_.project(), *emitter) : Falloff{};
}

std::optional<double> FalloffEditor::earsDistance() const
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return {};
    }
    return glm::length(emitter->at - playback_.ears().at) / reachFactorOf(session_.project(), *emitter);
}

void FalloffEditor::refresh()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    if (emitter->id != shown_) {
        shown_ = emitter->id;
        stopComparing();
    }
    const Project& project = session_.project();
    const QSignalBlocker quietWhich(which_);
    which_->clear();
    for (const auto& shared : project.falloffs) {
        which_->addItem(QString::fromStdString(shared->name), QString::fromStdString(shared->id.text));
    }
    which_->addItem(tr("its own"), QString());
    const auto* shared = std::get_if<FalloffId>(&emitter->falloff);
    const bool known = shared != nullptr && project.falloffs.find(*shared) != nullptr;
    which_->setCurrentIndex(known ? which_->findData(QString::fromStdString(shared->text)) : which_->count() - 1);
    if (known) {
        sharing_->setText(tr("shared by %1 · make own").arg(usersOf(project, *shared)));
        sharing_->setToolTip(tr("Give this emitter a copy, so that changes no longer reach the others"));
    } else {
        sharing_->setText(tr("share it"));
        sharing_->setToolTip(tr("Put it among the shared falloffs, so that others can use it"));
    }
    comparing_->setVisible(ghost_.has_value());
    comparing_->setText(hearsOther() ? tr("you hear the dashed one: %1 · X goes back").arg(ghostName_)
                                     : tr("dashed: %1 · X lets you hear it").arg(ghostName_));
    // What is decided as a beat begins.
    lanes_->withhold(emitter->kind == EmitterKind::pulse ? std::vector<LaneProperty>{}
                                                         : std::vector{LaneProperty::interval, LaneProperty::pitch});
    lanes_->refresh();
}

void FalloffEditor::follow()
{
    const Emitter* emitter = session_.subject();
    if (emitter != nullptr) {
        lanes_->refreshPlace();
    }
}

void FalloffEditor::fillMenu()
{
    QMenu* menu = more_->menu();
    menu->clear();
    menu->setToolTipsVisible(true);
    QMenu* starts = menu->addMenu(tr("Start from"));
    starts->setToolTipsVisible(true);
    for (const StartingPoint& point : startingPoints()) {
        QAction* action = starts->addAction(QString::fromStdString(point.name));
        action->setToolTip(QString::fromStdString(point.reason));
        connect(action, &QAction::triggered, this, [this, &point] {
            Falloff falloff = current();
            falloff.lanes = point.falloff.lanes;
            put(std::move(falloff), tr("starts from %1").arg(QString::fromStdString(point.name)), {});
        });
    }
    menu->addSeparator();
    QAction* keep = menu->addAction(ghost_ ? tr("Hear the one or the other (X)") : tr("Compare with how it is now (X)"));
    connect(keep, &QAction::triggered, this, &FalloffEditor::compare);
    QMenu* others = menu->addMenu(tr("Compare with"));
    for (const auto& other : session_.project().falloffs) {
        const QString name = QString::fromStdString(other->name);
        connect(others->addAction(name), &QAction::triggered, this,
                [this, falloff = *other, name] { compareWith(falloff, name); });
    }
    if (ghost_) {
        connect(menu->addAction(tr("Take the dashed one")), &QAction::triggered, this, &FalloffEditor::keepCompared);
        connect(menu->addAction(tr("Stop comparing")), &QAction::triggered, this, [this] {
            stopComparing();
            refresh();
        });
    }
}

void FalloffEditor::compareWith(const Falloff& falloff, const QString& name)
{
    ghost_ = falloff;
    ghostName_ = name;
    hearOwn();
    refresh();
}

void FalloffEditor::stopComparing()
{
    ghost_.reset();
    hearOwn();
}

void FalloffEditor::hearOwn()
{
    playback_.listenOtherwise([](Otherwise& otherwise) { otherwise.falloff.reset(); });
}

bool FalloffEditor::hearsOther() const
{
    const auto& other = playback_.otherwise().falloff;
    return other && other->emitter == shown_;
}

/// The two change places: what was is what is compared with from now on.
void FalloffEditor::keepCompared()
{
    Falloff next = current();
    std::swap(next.lanes, ghost_->lanes);
    hearOwn();
    put(std::move(next), tr("taken from %1").arg(ghostName_), {});
}

void FalloffEditor::compare()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    if (!ghost_) {
        compareWith(current(), tr("as it was"));
        return;
    }
    if (hearsOther()) {
        hearOwn();
    } else {
        playback_.listenOtherwise([&](Otherwise& otherwise) {
            otherwise.falloff = Otherwise::Lanes{emitter->id, ghost_->lanes};
        });
    }
}

void FalloffEditor::chooseFalloff(int index)
{
    const QString id = which_->itemData(index).toString();
    if (id.isEmpty()) {
        makeOwn();
        return;
    }
    session_.editSelected(tr("Use falloff %1").arg(which_->itemText(index)), {},
                          [&](Emitter& e) { e.falloff = FalloffId{id.toStdString()}; });
}

void FalloffEditor::makeOwn()
{
    if (const Emitter* emitter = session_.subject()) {
        const QString name = tr("Give %1 a falloff of its own").arg(QString::fromStdString(emitter->name));
        session_.edit(withOwnFalloff(session_.project(), session_.levelId(), emitter->id), name);
    }
}

void FalloffEditor::share()
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    Project next = session_.project();
    Falloff shared = falloffOf(next, *emitter);
    shared.name = emitter->name;
    shared.id = next.falloffs.freshId(shared.name);
    const FalloffId id = shared.id;
    next.falloffs.put(std::move(shared));
    next = withEmitter(std::move(next), session_.levelId(), emitter->id, [&](Emitter& e) { e.falloff = id; });
    session_.edit(std::move(next), tr("Share the falloff of %1").arg(QString::fromStdString(emitter->name)));
}

void FalloffEditor::change(std::vector<Lane> lanes, const QString& what, const QString& gesture)
{
    Falloff falloff = current();
    falloff.lanes = std::move(lanes);
    put(std::move(falloff), what, gesture);
}

void FalloffEditor::put(Falloff falloff, const QString& what, const QString& gesture)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    const QString of = QString::fromStdString(falloff.name.empty() ? emitter->name : falloff.name);
    session_.edit(withFalloff(session_.project(), session_.levelId(), emitter->id, std::move(falloff)),
                  tr("Falloff of %1: %2").arg(of, what), gesture);
}

void FalloffEditor::listenAt(double distance_m)
{
    const Emitter* emitter = session_.subject();
    if (emitter == nullptr) {
        return;
    }
    // Along the line from the emitter through the character's ears, at their height.
    const double wanted_m = distance_m * reachFactorOf(session_.project(), *emitter);
    const Vec3 offset = playback_.characterEars().at - emitter->at;
    const double flat = std::hypot(offset.x, offset.y);
    const Vec2 way = flat > 1e-6 ? Vec2{offset.x, offset.y} / flat : Vec2{0.0, -1.0};
    const double across = std::max(std::sqrt(std::max(0.0, wanted_m * wanted_m - offset.z * offset.z)), 1e-3);
    Pose feet = playback_.feet();
    feet.at.x = emitter->at.x + way.x * across;
    feet.at.y = emitter->at.y + way.y * across;
    playback_.listenFrom(feet);
}

} // namespace stone
