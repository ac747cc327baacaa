// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/eyes/level_model.h"
#include "app/eyes/sight.h"
#include "app/session/playback.h"

#include <QOpenGLBuffer>
#include <QOpenGLFunctions>
#include <QOpenGLShaderProgram>
#include <QOpenGLWidget>

#include <memory>

namespace stone
{

class LabelLayer;

/// The walk-through view: the level from the camera, in the sheet's colours, with emitters and zones as marks and the
/// character as a figure. Dragging looks round, a click selects. Needs OpenGL; available() says whether there is any.
class EyesView : public QOpenGLWidget, protected QOpenGLFunctions
{
    Q_OBJECT

public:
    EyesView(Session& session, Playback& playback, QWidget* parent = nullptr);
    ~EyesView() override;

    /// Whether this machine and this display can draw it.
    static bool available();

    /// Where an emitter is drawn, in this widget's pixels; nothing for what lies behind.
    std::optional<QPointF> placeOf(const EmitterId& id) const;

protected:
    void initializeGL() override;
    void paintGL() override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

private:
    /// A buffer of the graphics card and how many corners it holds.
    struct Batch {
        QOpenGLBuffer buffer{QOpenGLBuffer::VertexBuffer};
        int corners = 0;
    };

    Sight sight() const;
    void loadLevel();
    void fill(Batch& batch, const std::vector<float>& floats, int floatsPerCorner);
    void drawFaces(Batch& batch, const QMatrix4x4& model, const QVector4D& colour);
    void drawLevel();
    void drawEdges();
    void drawFigure();
    bool hidden(const Vec3& place) const;
    void paintZones(QPainter& painter, const Sight& sight, LabelLayer& labels) const;
    void paintEmitters(QPainter& painter, const Sight& sight, LabelLayer& labels) const;
    void paintEars(QPainter& painter, const Sight& sight) const;
    void paintWords(QPainter& painter) const;

    Session& session_;
    Playback& playback_;
    std::unique_ptr<QOpenGLShaderProgram> faces_;
    std::unique_ptr<QOpenGLShaderProgram> lines_;
    Batch solid_;
    Batch glass_;
    Batch edges_;
    Batch figure_;
    std::shared_ptr<const Ground> loaded_; ///< whose level is on the graphics card
    std::vector<SurfaceUse> loadedUses_;
    bool stale_ = true;
    QPointF pressedAt_;
    QPointF lastAt_;
    bool looked_ = false; ///< the press has become a look round
};

} // namespace stone
