// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/drawn_shape.h"
#include "app/plan/label_layer.h"
#include "app/plan/plan_sheet.h"
#include "app/plan/plan_shows.h"
#include "app/plan/plan_underlay.h"
#include "app/plan/range_grips.h"
#include "app/plan/shape_grips.h"
#include "app/session/playback.h"

#include <QElapsedTimer>
#include <QPainterPath>
#include <QPixmap>
#include <QTimer>
#include <QWidget>

#include <array>
#include <memory>
#include <optional>
#include <set>
#include <vector>

namespace stone
{

class FloorEdges;

class BlindWalk;

/// The Plan: the level as a sheet seen from above, with the emitters, the ears and the chosen walk on it. Of a side-on level
/// the same sheet stands upright: a section through where it begins, with all that can be done on the Plan.
///
/// Left drag moves what it starts on (emitters, rings, ears, the ears' nose) or, on empty ground, the sheet; shift drag
/// selects a rectangle; the wheel zooms to the cursor; the middle and right buttons move the sheet from anywhere.
class PlanView : public QWidget
{
    Q_OBJECT

public:
    enum class Tool {
        select,
        place,
        draw,    ///< point after point: an outline, a line, stops
        opening, ///< an opening from one click to the next
        fit,     ///< puts the shape of what is selected round a part of the level
        walk     ///< a walk, point after point
    };

    PlanView(Session& session, Playback& playback, QWidget* parent = nullptr);

    void setTool(Tool tool);
    Tool tool() const { return tool_; }
    /// The sound that the place tool puts down.
    void setSoundToPlace(const SoundId& sound) { soundToPlace_ = sound; }

    void fitAll();
    void zoomBy(double factor);
    /// Brings an emitter into view, on its storey.
    void reveal(const EmitterId& id);
    void setSnap(bool on) { snap_ = on; }
    /// Brings what is selected into view, as large as it fits; all of the level where nothing is.
    void fitSelection();

    int storey() const { return storey_; }
    void showStorey(int index);
    double cut_m() const { return cut_m_; }
    void setCut(double cut_m);

    /// Where things are drawn, in this widget's pixels.
    const PlanCamera& camera() const { return camera_; }
    /// In the middle of what is seen: on the floor that is shown, or where the level's upright sheet stands.
    Vec3 middleOfSheet() const;
    QPointF placeOf(const EmitterId& id) const;
    QPointF placeOfEars() const;
    QPointF placeOfNose() const;
    /// Where the ears are pulled along the line from the head to the camera; nothing where there is no such line.
    std::optional<QPointF> placeOfEarsGrip() const;
    /// The tip of the selected emitter's front, where it is turned.
    QPointF placeOfFront() const;
    /// An end of the selected opening.
    QPointF placeOfOpeningEnd(int end) const;
    /// A point of the selected walk.
    QPointF placeOfWalkPoint(std::size_t point) const;
    /// A grip of the shape that is selected.
    QPointF placeOfGrip(ShapeGrip::Kind kind, std::size_t index) const;
    /// An end of the selected sprinkle's range round the player.
    QPointF placeOfRange(RangeGrip::End end) const;

    /// Ends the drawing tool: what was drawn becomes the shape or the stops of what is selected, or a new zone.
    void finishDrawing();
    /// Shows the selected Roamer where it is so long after setting off; below 0: where it is now.
    void setPreview(double time_s);
    /// Marks a side of the selected zone; -1: none.
    void markSide(int side);
    /// Draws parts of the Plan, or leaves them out; what is left out is not clicked either.
    void show(PlanPart part, bool on)
    {
        shown_.set(static_cast<std::size_t>(part), on);
        update();
    }
    /// How often what does not move was painted: once for each view of it, whatever goes on there.
    std::uint64_t stillPaints() const { return stillPaints_; }
    /// How often all that may move was painted; the ears alone are moved on it more often than that.
    std::uint64_t wholePaints() const { return wholePaints_; }
    bool shows(PlanPart part) const { return shown_.test(static_cast<std::size_t>(part)); }
    /// What was measured last by dragging with Ctrl held, from and to; nothing: nothing is.
    std::optional<std::array<Vec2, 2>> measured() const { return measured_; }
    /// The last blind walk is drawn; it must outlive this.
    void showBlindWalk(const BlindWalk& walk);
    /// A post as the Plan shows it: a flag, with what is left to its bound or by how much it is missed.
    struct PostMark {
        PostId id;
        Vec3 at{0.0}; ///< feet
        QString text;
        bool broken = false;
        bool judged = true;
    };
    void showPosts(std::vector<PostMark> marks)
    {
        postMarks_ = std::move(marks);
        update();
    }
    const std::vector<PostMark>& postMarks() const { return postMarks_; }
    /// Drawn under everything; null: nothing. It must live for as long as this is painted, or be taken away before.
    void setUnderlay(PlanUnderlay* underlay)
    {
        underlay_ = underlay;
        update();
    }
    /// Where names are written in the last picture.
    const std::vector<QRectF>& labelBoxes() const { return labelBoxes_; }
    /// Height of the shown storey's floor.
    double floorShown() const;

signals:
    void toolChanged();
    void storeyChanged();
    /// A walk was drawn through walls, or over holes, on so many legs.
    void notPassable(std::size_t legs);
    /// A level's file, or a picture, was dropped.
    void levelDropped(const QString& file);
    /// The pointer is at a place of the level, for the status line.
    void pointed(const QString& where);
    /// The same as a place; nothing: it has left the sheet.
    void pointedAt(const std::optional<stone::Vec2>& place);
    /// The right button was clicked at a place of the Plan, or on the ears.
    void menuWanted(const QPoint& global, const stone::Vec2& place, bool onEars);
    /// A distance is being measured, or is not any more.
    void measuring();

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragMoveEvent(QDragMoveEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    /// What a press takes hold of.
    enum class Grip {
        none,
        sheet,
        emitters,
        fullRing,
        silentRing,
        front,
        ears,
        nose,
        band,
        measure,
        overview,
        shape,
        zone,
        stop,
        range,
        share,
        opening,
        walkPoint,
        way,
        copy
    };

    /// All that the picture of what stays depends on. It keeps what it points to alive.
    struct Still {
        std::shared_ptr<const Project> document;
        std::shared_ptr<const World> world;
        LevelId level;
        PlanCamera camera;
        double ratio = 0.0;
        int storey = 0;
        int markedSide = 0;
        std::set<EmitterId> selection;
        const Zone* zone = nullptr;
        const Room* room = nullptr;
        const Walk* walkSelected = nullptr;
        WalkId walk;
        std::uint64_t sheet = 0;
        std::uint64_t underlay = 0;
        std::shared_ptr<const FloorEdges> edges; ///< null while they are not shown
        PlanParts shown;
        std::vector<double> numbers; ///< of each zone whether it is entered, and where it is; where areas are
        bool operator==(const Still&) const = default;
    };
    /// A thing of the level by its index, and its outline on the screen.
    struct Outlined {
        std::uint32_t index;
        QPainterPath path;
    };

    struct Ring {
        double radius_m = 0.0; ///< on the sheet: where a sphere round the emitter meets one through the ears
        double distance_m = 0.0;
        bool drawn = false;
    };
    Ring fullRing() const;
    Ring silentRing() const;
    /// The ring for a distance on the falloff's ruler.
    Ring ringOf(const Emitter& emitter, double onRuler_m) const;

    /// Where an emitter is at the moment: it may be moving.
    Vec3 placeNow(const Emitter& emitter) const;
    const Mesh::Node* partUnder(const QPointF& at) const;
    void fitTo(const QPointF& at);
    void dragShape(const QPointF& at);
    void dragRange(const QPointF& at);
    QPolygonF onScreen(const std::vector<Vec2>& outline) const;
    std::vector<QPolygonF> outlinesOf(const Shape& shape, const Solid::Frame& frame) const;
    std::optional<DrawnShape> shapeOnSheet() const;
    void setShapeOnSheet(const Shape& next, const Vec2& by, const QString& what, const QString& gesture);
    std::vector<ShapeGrip> shapeGrips() const;
    std::optional<ShapeGrip> shapeGripAt(const QPointF& at) const;
    std::optional<RangeGrip> rangeGripAt(const QPointF& at) const;
    /// A place of the player's frame, in pixels, and the other way round.
    QPointF besidePlayer(const Vec2& p) const;
    Vec2 asThePlayerFaces(const QPointF& at) const;
    std::optional<std::size_t> stopAt(const QPointF& at) const;
    const Zone* zoneAt(const QPointF& at) const;
    const Opening* openingAt(const QPointF& at) const;
    const Room* roomBorderAt(const QPointF& at) const;
    /// Which end of the selected opening is there.
    std::optional<int> openingEndAt(const QPointF& at) const;
    std::array<Vec3, 2> endsOnSheet(const Opening& opening) const;
    Opening withEndAt(Opening opening, int end, const Vec2& to) const;
    void dragOpening(const QPointF& at);
    void addOpeningPoint(const QPointF& at);
    void selectInside(const QPointF& at);
    const Walk* chosenWalk() const { return session_.level().walks.find(playback_.walk()); }
    std::optional<std::size_t> walkPointAt(const QPointF& at) const;
    std::optional<std::size_t> legAt(const QPointF& at) const;
    Vec3 feetAt(const Vec3& place) const;
    void dragWalkPoint(const QPointF& at);
    bool addOrRemoveWalkPoint(const QPointF& at);
    void addPointOfWalk(const QPointF& at);
    void finishWalk();
    const Emitter* areaAt(const QPointF& at) const;
    void removeCornerAt(const QPointF& at);
    void addDrawnPoint(const QPointF& at);

    Grip gripAt(const QPointF& at) const;
    const Emitter* emitterAt(const QPointF& at) const;
    EmitterId copyAt(const QPointF& at) const;
    void dragPlant(const QPointF& at);
    /// Silent ones can be left out of the picture.
    bool isDrawn(std::size_t emitter) const;
    /// The level as it is heard, without what rules plant.
    const Level& heardLevel() const;
    void press(const QPointF& at, Qt::KeyboardModifiers modifiers);
    void drag(const QPointF& at);
    void dragFront(const QPointF& at);
    Vec2 draggedTo(const QPointF& at) const;
    double headingOnSheet(const QPointF& offset) const;
    void dragRing(const QPointF& at);
    void dragEarsShare(const QPointF& at);
    Vec2 snapped(const Vec2& p) const;
    /// Where something is put down: snapped, to the centimetre.
    Vec2 drawnAt(const QPointF& at) const;
    Vec3 dropPlace(const QPointF& at) const;

    static constexpr double turnAway_px = 26.0; ///< the grip that turns a shape lies so far ahead of it
    void levelChanged();
    void followDocument();
    int storeyAt(double height_m) const;
    /// On an upright sheet all storeys are seen at once.
    bool onStorey(double height_m) const { return camera_.upright || storeyAt(height_m) == storey_; }
    bool onStorey(const Zone& zone) const;
    void followEars();
    void showMoving();
    void noteMoving(std::vector<QPointF> places);
    void paintCalm(QPainter& painter);
    QRect aroundEars() const;

    Still stillNow() const;
    void paintStill(QPainter& painter);
    void drawEdges(QPainter& painter, const FloorEdges& edges) const;
    void drawRooms(QPainter& painter);
    void drawZones(QPainter& painter);
    void drawAreas(QPainter& painter) const;
    void drawRoutes(QPainter& painter) const;
    void drawWalk(QPainter& painter) const;
    bool roomIsNamed(const std::string& name) const;
    void nameZones(LabelLayer& labels) const;
    void paintRooms(QPainter& painter, LabelLayer& labels) const;
    void paintOpenings(QPainter& painter, LabelLayer& labels) const;
    void paintMargin(QPainter& painter, const Zone& zone, const QPolygonF& outline) const;
    void paintAreas(QPainter& painter) const;
    void paintRoutes(QPainter& painter) const;
    void paintShots(QPainter& painter) const;
    void paintPulses(QPainter& painter) const;
    void paintSprinkleRange(QPainter& painter) const;
    void paintGrips(QPainter& painter) const;
    void paintWalkGrips(QPainter& painter) const;
    void paintWalk(QPainter& painter) const;
    /// The flag of a saved place, with the key that leads there.
    const QPixmap& flagOf(int key);
    void paintPlaces(QPainter& painter, LabelLayer& labels);
    void paintPosts(QPainter& painter, LabelLayer& labels) const;
    void paintRings(QPainter& painter, LabelLayer& labels) const;
    void paintEmitters(QPainter& painter, LabelLayer& labels) const;
    void paintPlants(QPainter& painter, LabelLayer& labels) const;
    void paintPlantLine(QPainter& painter) const;
    void paintCopyInHand(QPainter& painter, LabelLayer& labels, const PlantedRule& rule) const;
    void paintEars(QPainter& painter) const;
    void paintFigure(QPainter& painter) const;
    /// Whether the front of the selected emitter points anywhere on the sheet.
    bool frontIsSeen() const;
    void paintEarsGrip(QPainter& painter) const;
    void paintBlindWalk(QPainter& painter, LabelLayer& labels) const;
    void paintLobe(QPainter& painter) const;
    void paintGhostEars(QPainter& painter) const;
    void paintLine(QPainter& painter, LabelLayer& labels) const;
    void paintRays(QPainter& painter, LabelLayer& labels) const;
    void paintGaze(QPainter& painter, LabelLayer& labels) const;
    void paintScale(QPainter& painter) const;
    void paintMeasured(QPainter& painter) const;
    std::array<Vec2, 2> levelBounds() const;
    QRectF overviewRect() const;
    void paintOverview(QPainter& painter);
    void centreByOverview(const QPointF& at);
    void paintPartUnder(QPainter& painter) const;
    void paintNotes(QPainter& painter) const;

    Session& session_;
    Playback& playback_;
    PlanCamera camera_;
    PlanSheet sheet_;
    PlanUnderlay* underlay_ = nullptr;
    std::vector<PostMark> postMarks_;
    QPoint rightPressedAt_;
    Still still_;
    QPixmap stillPicture_;
    std::uint64_t stillPaints_ = 0;
    std::vector<QPixmap> flags_;      ///< by key from 1 on; the last has no number
    std::vector<Outlined> roomPaths_; ///< as they are in the picture
    std::vector<Outlined> zonePaths_;
    std::vector<QRectF> labelBoxes_;
    EmitterId hovered_; ///< under the pointer; empty: none
    Tool tool_ = Tool::select;
    SoundId soundToPlace_;
    bool snap_ = false;
    PlanParts shown_ = PlanParts().set();
    std::optional<std::array<Vec2, 2>> measured_;
    QPixmap overview_; ///< all of the sheet, small
    std::uint64_t overviewOf_ = 0;
    bool fitted_ = false;
    int storey_ = 0;
    int earsStorey_ = 0;
    std::vector<Vec3> meshCorners_; ///< of the level's box; empty: it has no mesh
    QTimer nextMoving_;             ///< runs while what moves only a little waits for its picture
    bool movedSince_ = false;
    QPixmap calm_;        ///< the latest whole picture, without the ears
    QRegion earsOnly_;    ///< where nothing but the ears is to be painted anew
    QRect paintedAround_; ///< the ears, in the latest picture
    std::uint64_t wholePaints_ = 0;
    QPointF paintedEars_;
    double paintedHeading_deg_ = 0.0;
    std::vector<QPointF> placesPainted_; ///< of emitters, in the latest picture
    QElapsedTimer sincePicture_;
    double fastest_px_s_ = 0.0; ///< of what moves on its way
    double cut_m_ = 1.5;
    double sheetUnit_ = 0.0;     ///< what of the level the sheet shows
    double sheetAcross_m_ = 0.0; ///< where an upright one stands
    Geometry sheetGeometry_;
    std::vector<Storey> sheetStoreys_;
    LevelId levelShown_;
    std::filesystem::path shownPath_;

    Grip grip_ = Grip::none;
    QPointF pressedAt_;
    QPointF lastAt_;
    bool moved_ = false;
    Vec2 grabOffset_{0.0};
    EmitterId grabbed_;
    std::optional<ShapeGrip> shapeGrip_;
    RangeGrip::End rangeEnd_{};
    std::size_t stop_ = 0;
    std::vector<Vec2> drawnPoints_;
    std::vector<Vec3> drawnWalk_; ///< feet
    std::size_t walkPoint_ = 0;
    const BlindWalk* blind_ = nullptr;
    double preview_s_ = -1.0;
    int markedSide_ = -1;
    int openingEnd_ = 0;
    int gestures_ = 0;
};

} // namespace stone
