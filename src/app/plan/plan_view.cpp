// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/blind/blind_walk.h"
#include "app/plan/drawn_shape.h"
#include "app/theme/theme.h"
#include "world/carriage.h"
#include "world/reach.h"
#include "world/walk_pose.h"

#include <QMouseEvent>

#include <cmath>

namespace stone
{

namespace
{

constexpr double nose_px = 24.0;
/// What moves by less between two pictures does not seem to jump.
constexpr double noticed_px = 0.7;
constexpr double noticed_deg = 2.0;
constexpr double jumps_px = 1.5;     ///< nor does this, of what is small and goes its way
constexpr int calmPictures_ms = 100; ///< from picture to picture while nothing moves on its way
constexpr int fastPictures_ms = 50;  ///< while something does that would jump else
constexpr double front_px = 34.0;    ///< from an emitter to the tip of its front

/// What lies on the sheet; empty: nothing but the grid.
std::string fileOf(const Geometry& geometry)
{
    if (const auto* file = std::get_if<GeometryFile>(&geometry)) {
        return file->file;
    }
    const auto* picture = std::get_if<GeometryPicture>(&geometry);
    return picture != nullptr ? picture->file : std::string();
}

} // namespace

PlanView::PlanView(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback)
{
    setObjectName("plan");
    setAccessibleName(tr("Plan"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAcceptDrops(true);
    setAttribute(Qt::WA_OpaquePaintEvent); // the sheet covers all of it
    setMinimumSize(320, 240);
    nextMoving_.setSingleShot(true);
    nextMoving_.setInterval(calmPictures_ms);
    connect(&nextMoving_, &QTimer::timeout, this, [this] {
        if (std::exchange(movedSince_, false)) {
            showMoving();
        }
    });
    connect(&session_, &Session::documentChanged, this, &PlanView::followDocument);
    connect(&session_, &Session::selectionChanged, this, [this] { markSide(-1); });
    connect(&session_, &Session::levelChanged, this, &PlanView::levelChanged);
    connect(&session_, &Session::waysFound, this, qOverload<>(&QWidget::update));
    connect(&session_, &Session::edgesFound, this, qOverload<>(&QWidget::update));
    connect(&playback_, &Playback::moved, this, &PlanView::followEars);
    connect(&playback_, &Playback::listeningChanged, this, qOverload<>(&QWidget::update));
    connect(&playback_, &Playback::walkChanged, this, qOverload<>(&QWidget::update));
    levelChanged();
}

void PlanView::followDocument()
{
    // The sheet shows more of the level than its geometry: how large its unit is, where a picture lies, its storeys.
    const Level& level = session_.level();
    const bool turned =
        level.sideOn != camera_.upright || (level.sideOn && across(*level.sideOn, level.character.start) != sheetAcross_m_);
    if (turned || level.metresPerUnit != sheetUnit_ || !(level.geometry == sheetGeometry_) || level.storeys != sheetStoreys_) {
        levelChanged();
    }
    update();
}

void PlanView::levelChanged()
{
    const Level& level = session_.level();
    const bool otherSheet = fileOf(level.geometry) != fileOf(sheetGeometry_) || level.metresPerUnit != sheetUnit_ ||
                            level.sideOn != camera_.upright;
    camera_.upright = level.sideOn;
    sheetAcross_m_ = level.sideOn ? across(*level.sideOn, level.character.start) : 0.0;
    const bool otherStoreys = level.storeys != sheetStoreys_;
    const bool asMany = level.storeys.size() == sheetStoreys_.size();
    sheetUnit_ = level.metresPerUnit;
    sheetGeometry_ = level.geometry;
    sheetStoreys_ = level.storeys;
    sheet_.setLevel(session_.loadedLevel(), level);
    meshCorners_.clear();
    if (session_.loadedLevel().mesh() != nullptr && !session_.loadedLevel().mesh()->points.empty()) {
        for (const Vec3& corner : session_.loadedLevel().mesh()->bounds()) {
            meshCorners_.push_back(corner);
        }
    }
    if (level.id != levelShown_ || session_.path() != shownPath_) {
        levelShown_ = level.id;
        shownPath_ = session_.path();
        fitted_ = false;
        earsStorey_ = storeyAt(level.character.start.z);
        showStorey(earsStorey_);
    } else {
        fitted_ = fitted_ && !otherSheet;
        if (otherStoreys) {
            earsStorey_ = storeyAt(playback_.feet().at.z);
            showStorey(asMany ? storey_ : earsStorey_);
        }
    }
    if (!fitted_ && !session_.loadingLevel() && width() > 200) {
        fitAll();
    }
    update();
}

void PlanView::showStorey(int index)
{
    const auto& storeys = session_.level().storeys;
    if (storeys.empty()) {
        return;
    }
    storey_ = std::clamp(index, 0, static_cast<int>(storeys.size()) - 1);
    const Storey& storey = storeys[static_cast<std::size_t>(storey_)];
    cut_m_ = storey.cut_m;
    sheet_.setCut(storey.floor_m, cut_m_);
    emit storeyChanged();
    update();
}

void PlanView::setCut(double cut_m)
{
    const auto& storeys = session_.level().storeys;
    if (cut_m == cut_m_ || storeys.empty()) {
        return;
    }
    cut_m_ = cut_m;
    sheet_.setCut(storeys[static_cast<std::size_t>(std::min(storey_, static_cast<int>(storeys.size()) - 1))].floor_m, cut_m);
    emit storeyChanged();
    update();
}

int PlanView::storeyAt(double height_m) const
{
    // A storey reaches a little below its floor: tracks lie deeper than platforms.
    constexpr double below_m = 1.0;
    const auto& storeys = session_.level().storeys;
    int best = 0;
    double highest = -INFINITY;
    double lowest = INFINITY;
    for (int i = 0; i < static_cast<int>(storeys.size()); ++i) {
        const double floor = storeys[static_cast<std::size_t>(i)].floor_m;
        if (floor <= height_m + below_m && floor > highest) {
            highest = floor;
            best = i;
        } else if (std::isinf(highest) && floor < lowest) {
            lowest = floor;
            best = i;
        }
    }
    return best;
}

void PlanView::followEars()
{
    // Only on the way from one storey to another: whoever chose a storey to look at keeps it.
    const int storey = storeyAt(playback_.feet().at.z);
    if (storey != earsStorey_) {
        earsStorey_ = storey;
        showStorey(storey);
    }
    showMoving();
}

/// All that may move is painted ten times a second while one listens, twenty where something goes by fast, and the ears by
/// themselves whenever they have moved by more than is not seen. What lies over the sheet stays as it is: the level passing
/// behind it is not to be seen.
void PlanView::showMoving()
{
    const QPointF ears = placeOfEars();
    const double heading_deg = playback_.ears().heading_deg;
    const bool noticed = std::abs(ears.x() - paintedEars_.x()) > noticed_px ||
                         std::abs(ears.y() - paintedEars_.y()) > noticed_px ||
                         std::abs(heading_deg - paintedHeading_deg_) > noticed_deg;
    if (!nextMoving_.isActive()) {
        nextMoving_.start(fastest_px_s_ * calmPictures_ms / 1000.0 > jumps_px ? fastPictures_ms : calmPictures_ms);
        earsOnly_ = {};
        update(QRegion(rect()) - childrenRegion());
    } else {
        movedSince_ = true;
        if (!noticed) {
            return;
        }
        const QRegion around = QRegion(aroundEars()) + paintedAround_;
        earsOnly_ += around;
        update(around - childrenRegion());
    }
    paintedEars_ = ears;
    paintedHeading_deg_ = heading_deg;
}

/// All that is drawn with the ears, with its words.
QRect PlanView::aroundEars() const
{
    const Stance& stance = playback_.stance();
    QRectF box(placeOfEars(), QSizeF(1, 1));
    const Pose elsewhere = playback_.flight() == Flight::eyes ? playback_.eyes() : playback_.ears();
    for (const Pose& pose : {stance.head, stance.camera, stance.ears, elsewhere}) {
        box = box.united(QRectF(camera_.toScreen(pose.at), QSizeF(1, 1)));
    }
    constexpr double gaze_px = 60.0;
    constexpr double words_px = 170.0;
    return box.adjusted(-gaze_px, -gaze_px, words_px, gaze_px).toAlignedRect();
}

/// Of what is drawn of the level itself, else of what is placed in it.
std::array<Vec2, 2> PlanView::levelBounds() const
{
    const Level& level = session_.level();
    Vec2 low{INFINITY};
    Vec2 high{-INFINITY};
    const auto include = [&](const Vec2& p) {
        low = {std::min(low.x, p.x), std::min(low.y, p.y)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    };
    for (const Vec3& corner : meshCorners_) {
        include(camera_.toSheet(corner));
    }
    if (const auto* picture = std::get_if<GeometryPicture>(&level.geometry)) {
        const QImage& image = session_.loadedLevel().picture;
        include(picture->at);
        include(picture->at + Vec2{picture->width_m, picture->width_m * image.height() / std::max(image.width(), 1)});
    }
    // Where there is a level, what lies far outside of it need not be seen: a train comes from afar.
    const bool drawn = low.x < high.x;
    for (const auto& emitter : level.emitters) {
        if (isOnPlan(*emitter) && !drawn) {
            include(camera_.toSheet(placeNow(*emitter)));
        }
    }
    for (std::size_t i = 0; i < level.zones.size() && !drawn; ++i) {
        const Zone& zone = *level.zones[i];
        for (const Vec3& corner : Solid(zone.shape, frameAt(zone.at, zone.heading_deg)).box()) {
            include(camera_.toSheet(corner));
        }
    }
    include(camera_.toSheet(playback_.feet().at));
    const Vec2 middle = (low + high) / 2.0;
    const Vec2 half = {std::max((high.x - low.x) / 2.0, 10.0), std::max((high.y - low.y) / 2.0, 10.0)};
    return {middle - half, middle + half};
}

void PlanView::fitAll()
{
    const auto [low, high] = levelBounds();
    camera_.view = size();
    camera_.fit(low, high, 24.0);
    fitted_ = true;
    update();
}

void PlanView::fitSelection()
{
    Vec2 low{INFINITY};
    Vec2 high{-INFINITY};
    const auto include = [&](const Vec3& place) {
        const Vec2 p = camera_.toSheet(place);
        low = {std::min(low.x, p.x), std::min(low.y, p.y)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y)};
    };
    const auto includeShape = [&](const Shape& shape, const Solid::Frame& frame) {
        for (const Vec3& corner : Solid(shape, frame).box()) {
            include(corner);
        }
    };
    for (const EmitterId& id : session_.selection()) {
        const Emitter* emitter = session_.level().emitters.find(id);
        if (emitter != nullptr && isOnPlan(*emitter)) {
            include(placeNow(*emitter));
            if (emitter->kind == EmitterKind::area) {
                includeShape(emitter->area.shape, frameAt(emitter->at, emitter->heading_deg));
            }
        }
    }
    if (const auto* plant = session_.selected<Plant>()) {
        for (const PlantedRule& rule : playback_.hearing().world().planted().rules) {
            for (const auto& copy : rule.copies) {
                if (rule.plant->id == plant->id) {
                    include(copy->at);
                }
            }
        }
    } else if (const auto* zone = session_.selected<Zone>()) {
        includeShape(zone->shape, frameAt(zone->at, zone->heading_deg));
    } else if (const auto* room = session_.selected<Room>()) {
        includeShape(room->shape, frameAt(room->at, room->heading_deg));
    } else if (const auto* opening = session_.selected<Opening>()) {
        for (const Vec3& end : endsOnSheet(*opening)) {
            include(end);
        }
    } else if (const auto* walk = session_.selected<Walk>()) {
        for (const WalkPoint& point : walk->points) {
            include(point.at);
        }
    }
    if (low.x > high.x) {
        fitAll();
        return;
    }
    // What is about it belongs to it: a point alone fills no picture.
    constexpr double about_m = 4.0;
    camera_.fit(low - about_m, high + about_m, 40.0);
    update();
}

bool PlanView::isDrawn(std::size_t emitter) const
{
    const std::vector<Heard>& heard = playback_.heard();
    return shows(PlanPart::silent) ||
           (emitter < heard.size() && (heard[emitter].level_db >= audible_db || heard[emitter].gaveWay)) ||
           session_.selection().contains(heardLevel().emitters[emitter]->id);
}

const Level& PlanView::heardLevel() const
{
    const auto& heard = playback_.shownProject();
    const Level* level = heard ? heard->levels.find(session_.level().id) : nullptr;
    return level != nullptr ? *level : session_.level();
}

void PlanView::zoomBy(double factor)
{
    camera_.zoom(factor, QPointF(width() / 2.0, height() / 2.0));
    update();
}

void PlanView::reveal(const EmitterId& id)
{
    // What is planted stands in the level that is heard alone.
    const Emitter* emitter = playback_.hearing().level().emitters.find(id);
    if (emitter == nullptr || !isOnPlan(*emitter)) {
        return;
    }
    const Vec3 place = placeNow(*emitter);
    if (!QRectF(rect()).adjusted(40, 60, -40, -40).contains(camera_.toScreen(place))) {
        camera_.centre = camera_.toSheet(place);
    }
    update();
}

void PlanView::setTool(Tool tool)
{
    tool_ = tool;
    drawnPoints_.clear();
    drawnWalk_.clear();
    setCursor(tool == Tool::select ? Qt::ArrowCursor : Qt::CrossCursor);
    update();
    emit toolChanged();
}

QPointF PlanView::placeOf(const EmitterId& id) const
{
    const Emitter* emitter = session_.level().emitters.find(id);
    return emitter != nullptr ? camera_.toScreen(placeNow(*emitter)) : QPointF(-1, -1);
}

bool PlanView::onStorey(const Zone& zone) const
{
    if (camera_.upright) {
        return true;
    }
    // On each that it reaches into, from knee to head.
    const auto [low, high] = Solid(zone.shape, frameAt(zone.at, zone.heading_deg)).box();
    const double floor = floorShown();
    return low.z <= floor + 1.8 && high.z >= floor + 0.5;
}

void PlanView::showBlindWalk(const BlindWalk& walk)
{
    blind_ = &walk;
    connect(&walk, &BlindWalk::changed, this, qOverload<>(&QWidget::update));
}

QPointF PlanView::placeOfEars() const
{
    return camera_.toScreen(playback_.feet().at);
}

QPointF PlanView::placeOfFront() const
{
    const Emitter* emitter = session_.primary();
    if (emitter == nullptr) {
        return {};
    }
    const Vec2 way = camera_.toSheet(aheadOf(emitter->heading_deg, camera_.upright ? emitter->tilt_deg : 0.0));
    return camera_.toScreen(placeNow(*emitter)) + QPointF(way.x, -way.y) * front_px;
}

QPointF PlanView::placeOfNose() const
{
    const Vec2 way = camera_.toSheet(aheadOf(playback_.feet().heading_deg, 0.0));
    return camera_.toScreen(camera_.upright ? playback_.stance().head.at : playback_.feet().at) +
           QPointF(way.x, -way.y) * nose_px;
}

Vec3 PlanView::placeNow(const Emitter& emitter) const
{
    return stone::placeNow(playback_, emitter, session_.subject() == &emitter ? preview_s_ : -1.0);
}

void PlanView::setPreview(double time_s)
{
    preview_s_ = time_s;
    update();
}

void PlanView::markSide(int side)
{
    markedSide_ = side;
    update();
}

double PlanView::floorShown() const
{
    const auto& storeys = session_.level().storeys;
    return storeys.empty()
               ? 0.0
               : storeys[static_cast<std::size_t>(std::min<int>(storey_, static_cast<int>(storeys.size()) - 1))].floor_m;
}

} // namespace stone
