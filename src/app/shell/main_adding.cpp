// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"

#include "app/lists/earshot_panel.h"
#include "app/plan/plan_view.h"
#include "app/plan/sheet_shapes.h"
#include "app/rooms/room_proposer.h"
#include "app/session/clipboard.h"
#include "project/edit.h"
#include "project/unlike_names.h"

#include <QMenuBar>

#include <cmath>

/// What is put into a level from menus and by key.
namespace stone
{

void MainWindow::makeAddMenu()
{
    QMenu* menu = menuBar()->addMenu(tr("&Add"));
    menu->setObjectName("add");
    const struct {
        EmitterKind kind;
        QString text;
    } kinds[] = {{EmitterKind::point, tr("&Point")},         {EmitterKind::bed, tr("&Bed")},
                 {EmitterKind::area, tr("&Area")},           {EmitterKind::sprinkle, tr("&Sprinkle")},
                 {EmitterKind::roamer, tr("&Roamer")},       {EmitterKind::steps, tr("S&teps of the character")},
                 {EmitterKind::pulse, tr("P&ulse at edges")}};
    for (const auto& known : kinds) {
        add(menu, known.text, {}, [this, kind = known.kind] { addOfKind(kind); });
    }
    menu->addSeparator();
    add(menu, tr("&Zone"), {}, [this] { addZone(); });
    add(menu, tr("Roo&m"), {}, [this] { addRoom(); });
    add(menu, tr("Rooms and openings &from the level"), {}, [this] { proposeRooms(); });
    add(menu, tr("&Opening"), {}, [this] {
        plan_->setTool(PlanView::Tool::opening);
        plan_->setFocus();
    });
    add(menu, tr("P&lant rule"), {}, [this] { addPlant(); });
    add(menu, tr("&Walk, point by point"), QKeySequence("Shift+L"), [this] { drawWalk(); });
}

void MainWindow::drawWalk()
{
    plan_->setTool(PlanView::Tool::walk);
    plan_->setFocus();
}

/// In the middle of what is seen of the Plan, with the sound that is chosen in the list.
void MainWindow::addOfKind(EmitterKind kind)
{
    static const char* names[] = {"Point", "Bed", "Area", "Sprinkle", "Roamer", "Steps", "Pulse"};
    const SoundId chosen = lists_->currentSound();
    const Sound* sound = session_.project().sounds.find(chosen);
    Emitter emitter;
    emitter.kind = kind;
    emitter.name = sound != nullptr ? sound->name : names[static_cast<std::size_t>(kind)];
    emitter.sound = chosen;
    constexpr double usually_m = 1.5; // above a floor
    const bool onFloor = kind != EmitterKind::area && !session_.level().sideOn;
    emitter.at = middleOfSheet() + Vec3{0.0, 0.0, onFloor ? usually_m : 0.0};
    if (kind == EmitterKind::area) {
        emitter.placement.nearRange_m = 2.0;
    } else if (kind == EmitterKind::roamer) {
        const Vec3 aside = plan_->camera().wayOf({3.0, 0.0});
        emitter.roaming.stops = {{emitter.at - aside, {}, {}}, {emitter.at + aside, {}, {}}};
    }
    session_.addEmitter(std::move(emitter));
    if (sound == nullptr) {
        banner_->say(tr("It has no sound yet: choose one on the bench. Next time, choose a sound in the list first."));
    }
}

/// In the middle of what is seen, to ten centimetres.
Vec3 MainWindow::middleOfSheet() const
{
    const Vec3 middle = plan_->middleOfSheet();
    const Vec2 on = plan_->camera().toSheet(middle);
    return plan_->camera().placed({std::round(on.x * 10.0) / 10.0, std::round(on.y * 10.0) / 10.0}, middle);
}

/// On an upright sheet it stands, as what is drawn there does.
template <class Thing> void MainWindow::standUp(Thing& thing) const
{
    if (const auto& sideOn = session_.level().sideOn) {
        stone::standUp(thing, *sideOn);
    }
}

void MainWindow::addZone()
{
    Zone zone;
    zone.name = tr("Zone %1").arg(session_.level().zones.size() + 1).toStdString();
    zone.at = middleOfSheet();
    zone.shape = Prism{{{-5, -4}, {5, -4}, {5, 4}, {-5, 4}}, 3.0};
    standUp(zone);
    session_.addThing(std::move(zone));
}

/// With what is selected as its pattern, which is made of it where it is none yet; else with the first pattern that there is.
/// It is not planted until somebody has seen how many that makes.
void MainWindow::addPlant()
{
    Project next = session_.project();
    Plant plant;
    plant.on = false;
    if (const Emitter* emitter = session_.primary()) {
        if (emitter->pattern.empty()) {
            next = withPatternOf(std::move(next), session_.levelId(), emitter->id, emitter->name);
        }
        plant.pattern = next.levels.find(session_.levelId())->emitters.find(emitter->id)->pattern;
    } else if (!next.patterns.empty()) {
        plant.pattern = next.patterns[0]->id;
    }
    const Pattern* pattern = next.patterns.find(plant.pattern);
    if (pattern == nullptr) {
        banner_->say(tr("Select an emitter first: a plant rule puts more of it."));
        return;
    }
    plant.name = pattern->name;
    plant.at = middleOfSheet();
    standUp(plant);
    plant.shape = Ribbon{{{-10, 0, 0}, {10, 0, 0}}, 0.0, false};
    if (const Emitter* emitter = session_.primary(); emitter != nullptr && !session_.level().sideOn) {
        plant.offset.z = std::max(std::round((emitter->at.z - plan_->floorShown()) * 100.0) / 100.0, 0.0);
    }
    plant.name = NamesTaken(session_.level().plants).unlike(plant.name);
    const PlantId id = plant.id = session_.level().plants.freshId(plant.name);
    const QString name = tr("Draw the plant rule %1").arg(QString::fromStdString(plant.name));
    session_.edit(withLevel(std::move(next), session_.levelId(), [&](Level& level) { level.plants.append(std::move(plant)); }),
                  name);
    session_.selectThing<Plant>(id);
    banner_->say(
        tr("Say where it plants, on the bench; the rings on the Plan show how many that makes. Then tick \"planted\"."));
}

/// Round the selected zone, else in the middle of what is seen of the Plan.
void MainWindow::addRoom()
{
    Room room;
    room.name = tr("Room %1").arg(session_.level().rooms.size() + 1).toStdString();
    if (const auto* zone = session_.selected<Zone>()) {
        room.name = zone->name;
        room.at = zone->at;
        room.heading_deg = zone->heading_deg;
        room.shape = zone->shape;
    } else {
        room.at = middleOfSheet();
        room.shape = Prism{{{-4, -3}, {4, -3}, {4, 3}, {-4, 3}}, 3.0};
        standUp(room);
    }
    session_.addThing(std::move(room));
}

void MainWindow::proposeRooms()
{
    if (session_.loadedLevel().ground == nullptr) {
        banner_->say(tr("This level has no geometry to find rooms in: draw them with Add › Room."));
        return;
    }
    const auto& storeys = session_.level().storeys;
    const auto shown = static_cast<std::size_t>(std::max(plan_->storey(), 0));
    Storey storey = shown < storeys.size() ? storeys[shown] : storeys.front();
    storey.cut_m = plan_->cut_m();
    auto* proposer = new RoomProposer(session_, storey, this);
    connect(proposer, &RoomProposer::done, banner_, [this](const QString& words) { banner_->say(words); });
    proposer->begin();
}

/// `there`: at the pointer where it is over the Plan; else where it was.
void MainWindow::pasteHere(bool there)
{
    const QPoint pointer = plan_->mapFromGlobal(QCursor::pos());
    std::optional<Vec2> at;
    if (there && plan_->rect().contains(pointer)) {
        at = plan_->camera().toLevel(pointer);
    } else if (there) {
        at = plan_->camera().centre;
    }
    const Unbrought left = paste(session_, at);
    if (!left.sounds.empty()) {
        banner_->say(tr("%n sounds came without their files, which lie in %1.", nullptr, static_cast<int>(left.sounds.size()))
                         .arg(left.folder),
                     tr("Bring the files in"), [this, left] { bringFiles(session_, left); });
    }
}

} // namespace stone
