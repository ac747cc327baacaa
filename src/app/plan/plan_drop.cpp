// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/plan/plan_view.h"

#include "app/levels/bring_in.h"
#include "geometry/drawing.h"

#include <QDragEnterEvent>
#include <QMimeData>
#include <QUrl>

#include <algorithm>
#include <cmath>

/// What is dropped on the Plan, and where it lands.
namespace stone
{

namespace
{

constexpr double newHeight_m = 1.5; ///< of a placed emitter above its floor

constexpr double snap_m = 0.5;

} // namespace

Vec2 PlanView::snapped(const Vec2& p) const
{
    return snap_ ? Vec2{std::round(p.x / snap_m) * snap_m, std::round(p.y / snap_m) * snap_m} : p;
}

Vec2 PlanView::drawnAt(const QPointF& at) const
{
    const Vec2 p = snapped(camera_.toLevel(at));
    return {toCentimetre(p.x), toCentimetre(p.y)};
}

Vec3 PlanView::middleOfSheet() const
{
    const Vec3 start = session_.level().character.start;
    return camera_.upright ? camera_.placed(camera_.centre, start) : Vec3{camera_.centre, floorShown()};
}

Vec3 PlanView::dropPlace(const QPointF& at) const
{
    const double up_m = camera_.upright ? 0.0 : newHeight_m;
    return camera_.placed(drawnAt(at), middleOfSheet() + Vec3{0.0, 0.0, up_m});
}

void PlanView::dragEnterEvent(QDragEnterEvent* event)
{
    if (event->mimeData()->hasUrls() || event->mimeData()->hasFormat("application/x-stone-echo-sound")) {
        event->acceptProposedAction();
    }
}

void PlanView::dragMoveEvent(QDragMoveEvent* event)
{
    event->acceptProposedAction();
}

void PlanView::dropEvent(QDropEvent* event)
{
    const QPointF at = event->position();
    if (event->mimeData()->hasFormat("application/x-stone-echo-sound")) {
        session_.addEmitter({event->mimeData()->data("application/x-stone-echo-sound").toStdString()}, dropPlace(at));
    } else {
        QStringList files;
        for (const QUrl& url : event->mimeData()->urls()) {
            const QString file = url.toLocalFile();
            if (BringIn::canBring(file)) {
                emit levelDropped(file);
            } else {
                files << file;
            }
        }
        // Several files dropped at once lie side by side, each to be moved on.
        double offset = 0.0;
        for (const SoundId& id : session_.addSounds(files)) {
            session_.addEmitter(id, dropPlace(at + QPointF(offset, 0.0)));
            offset += 28.0;
        }
    }
    event->acceptProposedAction();
    setFocus(Qt::OtherFocusReason);
}

} // namespace stone
