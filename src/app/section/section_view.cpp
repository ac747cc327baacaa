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

void SectionView::paintEvent(QPaintEvent*)
{
    QPainter painter(this);
    painter.fillRect(rect(), theme::paper);
    const auto& cutter = session_.loadedLevel().sections[static_cast<std::size_t>(looking_)];
    const double cutAt_m = across_m();
    if (cutter && (cutOf_ != cutter.get() || cut_.height_m != cutAt_m)) {
        cut_ = cutter->at(cutAt_m);
        cut_.height_m = cutAt_m;
    } else if (!cutter) {
        cut_ = {};
    }
    cutOf_ = cutter.get();
    drawGrid(painter, camera_, session_.level().metresPerUnit);
    painter.setRenderHint(QPainter::Antialiasing);
    drawCut(painter, camera_, cut_);
    LabelLayer labels(QRectF(rect()).adjusted(4, 4, -4, -4));
    labels.keepFree(QRectF(0, 0, where_->geometry().right() + 8, 28));
    for (const Storey& storey : session_.level().storeys) {
        labels.keepFree(QRectF(width() - 150, camera_.toScreen(Vec2{0.0, storey.floor_m}).y() - 13, 150, 13));
    }
    paintStoreys(painter);
    paintZones(painter, labels);
    paintShape(painter);
    paintEmitters(painter, labels);
    paintWalk(painter);
    paintCharacter(painter);
    labels.paint(painter);
    paintGrips(painter);
}

void SectionView::paintStoreys(QPainter& painter) const
{
    painter.setFont(theme::text(7.5));
    for (const Storey& storey : session_.level().storeys) {
        const double y = camera_.toScreen(Vec2{0.0, storey.floor_m}).y();
        painter.setPen(QPen(theme::verdigris, 1, Qt::DashLine));
        painter.drawLine(QPointF(0, y), QPointF(width(), y));
        theme::drawHaloed(painter, QPointF(width() - 150, y - 3),
                          tr("%1, floor at %2").arg(QString::fromStdString(storey.name), theme::metres(storey.floor_m)),
                          theme::verdigris);
    }
}

void SectionView::paintZones(QPainter& painter, LabelLayer& labels) const
{
    const double cutAt_m = across_m();
    for (const auto& zone : session_.level().zones) {
        const auto [low, high] = Solid(zone->shape, frameNow(playback_, zone->at, zone->heading_deg, zone->riding)).box();
        if (session_.selected<Zone>() == zone.get() || across(looking_, low) > cutAt_m || across(looking_, high) < cutAt_m) {
            continue;
        }
        const QRectF box = QRectF(toScreen(low), toScreen(high)).normalized();
        QColor colour = theme::lapis;
        colour.setAlpha(150);
        painter.setPen(QPen(colour, 1.0, Qt::DashDotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(box);
        labels.add({.text = QString::fromStdString(zone->name).toUpper(),
                    .font = theme::text(7),
                    .colour = theme::lapis,
                    .at = box.topLeft() + QPointF(6, 8),
                    .radius = 2.0,
                    .rank = LabelLayer::Rank::space});
    }
}

/// The selected shape: what its sides cover, seen from here.
void SectionView::paintShape(QPainter& painter) const
{
    const auto drawn = drawnShape(session_, playback_);
    if (!drawn) {
        return;
    }
    const Emitter* emitter = session_.primary();
    const QColor colour = emitter != nullptr ? theme::colourOf(emitter->kind) : theme::lapis;
    QColor fill = colour;
    fill.setAlpha(40);
    painter.setPen(QPen(colour, 1.8));
    painter.setBrush(fill);
    if (const auto* ball = std::get_if<Ball>(&drawn->shape)) {
        const double r = ball->radius_m * camera_.pixelsPerMetre;
        painter.drawEllipse(toScreen(drawn->frame.at), r, r);
    } else if (const auto* capsule = std::get_if<Capsule>(&drawn->shape)) {
        const auto ends = heightGripsOf(drawn->shape, drawn->frame);
        QPainterPath line(toScreen(ends[0].at));
        line.lineTo(toScreen(ends[1].at));
        QPainterPathStroker stroker(
            QPen(Qt::black, 2.0 * capsule->radius_m * camera_.pixelsPerMetre, Qt::SolidLine, Qt::RoundCap));
        painter.drawPath(stroker.createStroke(line));
    } else if (std::holds_alternative<Ribbon>(drawn->shape)) {
        QPolygonF line;
        for (const HeightGrip& point : heightGripsOf(drawn->shape, drawn->frame)) {
            line << toScreen(point.at);
        }
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
    } else {
        const auto [low, high] = Solid(drawn->shape, drawn->frame).box();
        if (std::isfinite(low.x) && low.x <= high.x) {
            painter.drawRect(QRectF(toScreen(low), toScreen(high)).normalized());
        }
    }
}

void SectionView::paintGrips(QPainter& painter) const
{
    const auto drawn = drawnShape(session_, playback_);
    if (!drawn) {
        return;
    }
    painter.setFont(theme::number(7.5));
    for (const HeightGrip& grip : heightGripsOf(drawn->shape, drawn->frame)) {
        const QPointF at = placeOf(grip, *drawn);
        painter.setPen(QPen(theme::ink, 1.1));
        painter.setBrush(theme::paper);
        painter.drawRect(QRectF(at - QPointF(4, 4), QSizeF(8, 8)));
        theme::drawHaloed(painter, at + (grip.kind == HeightGrip::Kind::bottom ? QPointF(8, 13) : QPointF(8, -4)),
                          theme::metres(grip.at.z), theme::ink);
    }
}

void SectionView::paintEmitters(QPainter& painter, LabelLayer& labels) const
{
    const double cutAt_m = across_m();
    for (const auto& emitter : session_.level().emitters) {
        const Vec3 place = placeNow(playback_, *emitter);
        const bool selected = session_.selection().contains(emitter->id);
        const double near = selected ? 1.0 : nearness(place, cutAt_m);
        const QPointF at = toScreen(place);
        if (!isOnPlan(*emitter) || near <= 0.0 || !QRectF(rect()).contains(at)) {
            continue;
        }
        QColor colour = theme::colourOf(emitter->kind);
        colour.setAlphaF(static_cast<float>(0.25 + 0.75 * near));
        theme::drawMark(painter, emitter->kind, at, selected ? 15 : 11, colour);
        if (selected) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(theme::ink, 1.4));
            painter.drawEllipse(at, 11, 11);
        }
        if (selected || near > 0.6) {
            const QString name = QString::fromStdString(emitter->name);
            labels.add({.text = selected ? tr("%1, %2 up").arg(name, theme::metres(place.z)) : name,
                        .font = theme::text(8, selected ? QFont::Bold : QFont::Normal),
                        .colour = selected ? theme::ink : theme::soft,
                        .at = at,
                        .radius = 12.0,
                        .rank = selected ? LabelLayer::Rank::selected : LabelLayer::Rank::heard});
        }
    }
}

/// The chosen walk as it goes up and down; selected, its points are grips.
void SectionView::paintWalk(QPainter& painter) const
{
    const Walk* walk = session_.level().walks.find(playback_.walk());
    if (walk == nullptr) {
        return;
    }
    const bool selected = session_.selected<Walk>() == walk;
    QPolygonF way;
    for (const WalkPoint& point : walk->points) {
        way << toScreen(point.at);
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(selected ? theme::ink : theme::soft, 1.4, Qt::DotLine, Qt::RoundCap));
    painter.drawPolyline(way);
    if (selected) {
        painter.setPen(QPen(theme::ink, 1.4));
        painter.setBrush(theme::paper);
        for (const QPointF& at : way) {
            painter.drawEllipse(at, 4.2, 4.2);
        }
    }
}

/// Feet, head, camera and ears, however far from the cut.
void SectionView::paintCharacter(QPainter& painter) const
{
    const Stance& stance = playback_.stance();
    const QPointF feet = toScreen(stance.feet.at);
    const QPointF head = toScreen(stance.head.at);
    const QPointF camera = toScreen(stance.camera.at);
    const QPointF ears = toScreen(playback_.ears().at);
    painter.setPen(QPen(theme::ink, 1.4));
    painter.drawLine(feet, head);
    painter.drawLine(feet - QPointF(5, 0), feet + QPointF(5, 0));
    painter.setBrush(theme::paper);
    painter.drawEllipse(head, 4, 4);
    painter.setFont(theme::text(7.5));
    if (distanceBetween(head, camera) > 3.0) {
        painter.setPen(QPen(theme::ink, 1.0, Qt::DotLine));
        painter.drawLine(head, camera);
        painter.setPen(QPen(theme::ink, 1.4));
        painter.drawRect(QRectF(camera - QPointF(5, 4), QSizeF(10, 8)));
        theme::drawHaloed(painter, camera + QPointF(9, -4), tr("camera"), theme::ink);
    }
    painter.setBrush(theme::ink);
    painter.drawEllipse(ears, 4, 4);
    theme::drawHaloed(painter, ears + QPointF(7, 9), tr("ears"), theme::ink);
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
