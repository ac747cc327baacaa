// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/section/section_view.h"

#include "app/plan/label_layer.h"
#include "app/plan/outline_distance.h"
#include "app/plan/plan_sheet.h"
#include "app/theme/haloed.h"
#include "app/theme/labels.h"
#include "app/theme/theme.h"
#include "geometry/drawing.h"
#include "world/walk_making.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <cmath>

namespace stone
{

namespace
{

constexpr double grab_px = 9.0;
/// What lies farther from the cut is left out.
constexpr double farFromCut_m = 12.0;

} // namespace

SectionView::SectionView(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), turn_(new QPushButton(this)), where_(new QLabel(this))
{
    setObjectName("section");
    setAccessibleName(tr("Section"));
    setMinimumHeight(120);
    setMouseTracking(true);
    turn_->setObjectName("sectionTurn");
    turn_->setFont(theme::text(8));
    turn_->setToolTip(tr("Looks the other way: north or west"));
    turn_->move(8, 6);
    connect(turn_, &QPushButton::clicked, this,
            [this] { setLooking(looking_ == Looking::north ? Looking::west : Looking::north); });
    where_->setFont(theme::text(8));
    where_->setStyleSheet("color: " + theme::soft.name());
    for (const auto signal : {&Session::documentChanged, &Session::selectionChanged}) {
        connect(&session_, signal, this, [this] {
            bringIntoView();
            refresh();
        });
    }
    connect(&session_, &Session::levelChanged, this, [this] {
        fitted_ = false;
        refresh();
    });
    connect(&playback_, &Playback::moved, this, &SectionView::refresh);
    refresh();
}

std::optional<Vec3> SectionView::selectedPlace() const
{
    if (const auto drawn = drawnShape(session_, playback_)) {
        const auto [low, high] = Solid(drawn->shape, drawn->frame).box();
        const bool known = std::isfinite(low.x) && low.x <= high.x;
        return known ? (low + high) / 2.0 : drawn->frame.at;
    }
    const Emitter* emitter = session_.primary();
    return emitter != nullptr && isOnPlan(*emitter) ? std::optional(placeNow(playback_, *emitter)) : std::nullopt;
}

double SectionView::across_m() const
{
    return across(looking_, selectedPlace().value_or(playback_.feet().at));
}

void SectionView::showEdges(bool on)
{
    edgesShown_ = on;
    update();
}

void SectionView::setLooking(Looking looking)
{
    looking_ = looking;
    fitted_ = false;
    refresh();
}

void SectionView::refresh()
{
    if (!isVisible()) {
        return;
    }
    if (!fitted_) {
        fit();
    }
    turn_->setText(looking_ == Looking::north ? tr("Looking north") : tr("Looking west"));
    turn_->adjustSize();
    where_->setText(tr("Section through %1, %2 m %3")
                        .arg(selectedPlace() ? nameOfSelected() : tr("your ears"), theme::signedNumber(across_m(), 1),
                             looking_ == Looking::north ? tr("north") : tr("east")));
    where_->adjustSize();
    where_->move(turn_->geometry().right() + 8, 10);
    update();
}

QString SectionView::nameOfSelected() const
{
    if (const auto* zone = session_.selected<Zone>()) {
        return QString::fromStdString(zone->name);
    }
    if (const auto* room = session_.selected<Room>()) {
        return QString::fromStdString(room->name);
    }
    const Emitter* emitter = session_.primary();
    return emitter != nullptr ? QString::fromStdString(emitter->name) : QString();
}

void SectionView::fit()
{
    double low = 0.0;
    double high = 6.0;
    if (const Mesh* mesh = session_.loadedLevel().mesh(); mesh != nullptr && !mesh->points.empty()) {
        const auto [least, most] = mesh->bounds();
        low = least.z;
        high = most.z;
    }
    camera_.view = size();
    camera_.pixelsPerMetre = std::clamp((height() - 40.0) / std::max(high - low, 1.0), PlanCamera::least, PlanCamera::most);
    camera_.centre = {onSheet(looking_, selectedPlace().value_or(playback_.feet().at)).x, (low + high) / 2.0};
    fitted_ = height() > 40;
}

void SectionView::bringIntoView()
{
    const auto place = selectedPlace();
    if (place && hold_ == Hold::nothing &&
        !QRectF(rect()).adjusted(30, 0, -30, 0).contains({toScreen(*place).x(), height() / 2.0})) {
        camera_.centre.x = onSheet(looking_, *place).x;
    }
}

double SectionView::nearness(const Vec3& p, double across_m) const
{
    return std::clamp(1.0 - std::abs(across(looking_, p) - across_m) / farFromCut_m, 0.0, 1.0);
}

QPointF SectionView::placeOf(const EmitterId& id) const
{
    const Emitter* emitter = session_.level().emitters.find(id);
    return emitter != nullptr ? toScreen(placeNow(playback_, *emitter)) : QPointF(-1, -1);
}

/// Floors and ceilings are held at the left of what can be seen of them, where no mark lies over them.
QPointF SectionView::placeOf(const HeightGrip& grip, const DrawnShape& drawn) const
{
    QPointF at = toScreen(grip.at);
    if (grip.kind == HeightGrip::Kind::bottom ||
        (grip.kind == HeightGrip::Kind::top && !std::holds_alternative<Ball>(drawn.shape))) {
        const auto [low, high] = Solid(drawn.shape, drawn.frame).box();
        at.setX(std::clamp(toScreen(low).x() + 14.0, std::min(24.0, at.x()), std::max(at.x(), 24.0)));
    }
    return at;
}

QPointF SectionView::placeOfGrip(HeightGrip::Kind kind, std::size_t index) const
{
    if (const auto drawn = drawnShape(session_, playback_)) {
        for (const HeightGrip& grip : heightGripsOf(drawn->shape, drawn->frame)) {
            if (grip.kind == kind && grip.index == index) {
                return placeOf(grip, *drawn);
            }
        }
    }
    return {-1, -1};
}

std::optional<HeightGrip> SectionView::gripAt(const QPointF& at) const
{
    if (const auto drawn = drawnShape(session_, playback_)) {
        for (const HeightGrip& grip : heightGripsOf(drawn->shape, drawn->frame)) {
            if (distanceBetween(placeOf(grip, *drawn), at) < grab_px) {
                return grip;
            }
        }
    }
    return {};
}

QPointF SectionView::placeOfWalkPoint(std::size_t point) const
{
    const auto* walk = session_.selected<Walk>();
    return walk != nullptr && point < walk->points.size() ? toScreen(walk->points[point].at) : QPointF(-1, -1);
}

/// Of several points behind each other the one nearest to the cut.
std::optional<std::size_t> SectionView::walkPointAt(const QPointF& at) const
{
    const auto* walk = session_.selected<Walk>();
    std::optional<std::size_t> best;
    double nearest = -1.0;
    for (std::size_t i = 0; walk != nullptr && i < walk->points.size(); ++i) {
        const double near = nearness(walk->points[i].at, across_m());
        if (distanceBetween(placeOfWalkPoint(i), at) < grab_px && near > nearest) {
            nearest = near;
            best = i;
        }
    }
    return best;
}

const Emitter* SectionView::emitterAt(const QPointF& at) const
{
    const Emitter* best = nullptr;
    double nearest = grab_px;
    const double cutAt_m = across_m();
    for (const auto& emitter : session_.level().emitters) {
        const Vec3 place = placeNow(playback_, *emitter);
        const bool selected = session_.selection().contains(emitter->id);
        const double distance = distanceBetween(toScreen(place), at) - (selected ? 1.0 : 0.0);
        if (isOnPlan(*emitter) && (selected || nearness(place, cutAt_m) > 0.0) && distance < nearest) {
            nearest = distance;
            best = emitter.get();
        }
    }
    return best;
}

void SectionView::resizeEvent(QResizeEvent*)
{
    camera_.view = size();
    if (!fitted_) {
        refresh();
    }
}

void SectionView::showEvent(QShowEvent*)
{
    refresh();
}

void SectionView::mousePressEvent(QMouseEvent* event)
{
    lastAt_ = event->position();
    ++gestures_;
    hold_ = Hold::sheet;
    if (event->button() != Qt::LeftButton) {
        return;
    }
    if (const auto grip = gripAt(event->position())) {
        hold_ = Hold::grip;
        grip_ = grip;
    } else if (const auto point = walkPointAt(event->position())) {
        hold_ = Hold::walkPoint;
        walkPoint_ = *point;
    } else if (const Emitter* emitter = emitterAt(event->position())) {
        hold_ = Hold::emitter;
        grabbed_ = emitter->id;
        grabOffset_ = onSheet(looking_, handleOf(*emitter)) - camera_.toLevel(event->position());
        if (!session_.selection().contains(emitter->id)) {
            session_.selectOnly(emitter->id);
        }
    }
}

void SectionView::mouseMoveEvent(QMouseEvent* event)
{
    const QPointF at = event->position();
    if (event->buttons() == Qt::NoButton) {
        setCursor(gripAt(at)                                    ? Qt::SizeVerCursor
                  : walkPointAt(at) || emitterAt(at) != nullptr ? Qt::SizeAllCursor
                                                                : Qt::ArrowCursor);
        return;
    }
    const QString gesture = QString("section drag %1").arg(gestures_);
    const auto drawn = drawnShape(session_, playback_);
    if (hold_ == Hold::sheet) {
        camera_.centre += Vec2{lastAt_.x() - at.x(), at.y() - lastAt_.y()} / camera_.pixelsPerMetre;
        update();
    } else if (hold_ == Hold::grip && drawn && grip_) {
        const FittedShape thing{drawn->shape, drawn->at, drawn->heading_deg};
        const double height = std::round(camera_.toLevel(at).y * 20.0) / 20.0;
        setDrawnShape(session_, raised(thing, drawn->frame, *grip_, height), tr("height %1").arg(theme::metres(height)),
                      gesture);
    } else if (hold_ == Hold::walkPoint) {
        if (const auto* walk = session_.selected<Walk>(); walk != nullptr && walkPoint_ < walk->points.size()) {
            const Vec3& from = walk->points[walkPoint_].at;
            const Vec2 wanted = camera_.toLevel(at);
            const Vec2 way = Vec2{toCentimetre(wanted.x), toCentimetre(wanted.y)} - onSheet(looking_, from);
            const Vec3 to = from + fromSheet(looking_, way);
            session_.editThing<Walk>(tr("point %1 moved").arg(walkPoint_ + 1), gesture,
                                     [&](Walk& w) { w = withPointAt(std::move(w), walkPoint_, to); });
        }
    } else if (hold_ == Hold::emitter) {
        if (const Emitter* emitter = session_.level().emitters.find(grabbed_)) {
            const Vec2 wanted = camera_.toLevel(at) + grabOffset_;
            const Vec2 way = Vec2{toCentimetre(wanted.x), toCentimetre(wanted.y)} - onSheet(looking_, handleOf(*emitter));
            session_.moveSelected(fromSheet(looking_, way), gesture);
        }
    }
    lastAt_ = at;
}

void SectionView::mouseReleaseEvent(QMouseEvent*)
{
    hold_ = Hold::nothing;
    session_.endGesture();
}

void SectionView::wheelEvent(QWheelEvent* event)
{
    camera_.zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
    update();
}

} // namespace stone
