// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/eyes/eyes_view.h"

#include "app/plan/drawn_shape.h"
#include "app/plan/label_layer.h"
#include "app/theme/theme.h"

#include <QMouseEvent>
#include <QOffscreenSurface>
#include <QOpenGLContext>

#include <cmath>

/// What the graphics card draws and the mouse does. The marks over it are in eyes_marks.cpp.
namespace stone
{

namespace
{

constexpr double lookDegreesPerPixel = 0.22;
constexpr double click_px = 4.0;
constexpr double pick_px = 14.0;
/// A camera nearer to the head than this is in it: no figure stands in the picture.
constexpr double inTheHead_m = 0.3;
constexpr double ownHousing_m = 0.5;

constexpr const char* facesVertex = R"(#version 120
attribute vec3 place;
attribute vec3 normal;
uniform mat4 matrix;
uniform mat4 model;
uniform vec3 eyes;
varying vec3 facing;
varying float away;
void main()
{
    vec4 there = model * vec4(place, 1.0);
    facing = mat3(model) * normal;
    away = distance(there.xyz, eyes);
    gl_Position = matrix * there;
})";

/// Light comes from above and a little from the west, and what is far pales into the paper.
constexpr const char* facesFragment = R"(#version 120
uniform vec4 colour;
uniform vec3 paper;
varying vec3 facing;
varying float away;
void main()
{
    vec3 n = normalize(facing);
    if (!gl_FrontFacing) { n = -n; }
    float light = 0.70 + 0.18 * n.z + 0.16 * dot(n, normalize(vec3(-0.8, -0.45, 0.0)));
    vec3 lit = colour.rgb * light;
    gl_FragColor = vec4(mix(lit, paper, clamp(away / 160.0, 0.0, 0.85)), colour.a);
})";

constexpr const char* linesVertex = R"(#version 120
attribute vec3 place;
uniform mat4 matrix;
uniform vec3 eyes;
varying float away;
void main()
{
    away = distance(place, eyes);
    gl_Position = matrix * vec4(place, 1.0);
})";

constexpr const char* linesFragment = R"(#version 120
uniform vec4 colour;
varying float away;
void main()
{
    gl_FragColor = vec4(colour.rgb, colour.a * clamp(1.0 - away / 70.0, 0.12, 1.0));
})";

QVector3D vectorOf(const Vec3& v)
{
    return {static_cast<float>(v.x), static_cast<float>(v.y), static_cast<float>(v.z)};
}

QVector4D colourOf(const QColor& colour, double alpha = 1.0)
{
    return {static_cast<float>(colour.redF()), static_cast<float>(colour.greenF()), static_cast<float>(colour.blueF()),
            static_cast<float>(alpha)};
}

std::unique_ptr<QOpenGLShaderProgram> programOf(const char* vertex, const char* fragment)
{
    auto program = std::make_unique<QOpenGLShaderProgram>();
    program->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
    program->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
    program->bindAttributeLocation("place", 0);
    program->bindAttributeLocation("normal", 1);
    program->link();
    return program;
}

} // namespace

EyesView::EyesView(Session& session, Playback& playback, QWidget* parent)
    : QOpenGLWidget(parent), session_(session), playback_(playback)
{
    setObjectName("eyesView");
    setAccessibleName(tr("Walk-through view"));
    setMinimumHeight(120);
    QSurfaceFormat wanted = format();
    wanted.setSamples(4);
    wanted.setDepthBufferSize(24);
    setFormat(wanted);
    const auto again = [this] { update(); };
    connect(&session_, &Session::documentChanged, this, again);
    connect(&session_, &Session::selectionChanged, this, again);
    connect(&session_, &Session::levelChanged, this, again);
    connect(&playback_, &Playback::moved, this, again);
    connect(&playback_, &Playback::flightChanged, this, again);
}

EyesView::~EyesView()
{
    makeCurrent();
    for (Batch* batch : {&solid_, &glass_, &edges_, &figure_}) {
        batch->buffer.destroy();
    }
    faces_.reset();
    lines_.reset();
    doneCurrent();
}

bool EyesView::available()
{
    QOpenGLContext context;
    if (!context.create()) {
        return false;
    }
    QOffscreenSurface surface;
    surface.setFormat(context.format());
    surface.create();
    return surface.isValid() && context.makeCurrent(&surface);
}

Sight EyesView::sight() const
{
    return {playback_.eyes(), QSizeF(size())};
}

void EyesView::initializeGL()
{
    initializeOpenGLFunctions();
    faces_ = programOf(facesVertex, facesFragment);
    lines_ = programOf(linesVertex, linesFragment);
    fill(figure_, figureModel(), LevelModel::faceFloats);
    stale_ = true;
}

void EyesView::fill(Batch& batch, const std::vector<float>& floats, int floatsPerCorner)
{
    if (!batch.buffer.isCreated()) {
        batch.buffer.create();
    }
    batch.buffer.bind();
    batch.buffer.allocate(floats.data(), static_cast<int>(floats.size() * sizeof(float)));
    batch.buffer.release();
    batch.corners = static_cast<int>(floats.size()) / floatsPerCorner;
}

/// Panes let one look through; what is a pane says the material that the surface is taken for.
void EyesView::loadLevel()
{
    const auto& ground = session_.loadedLevel().ground;
    const Project& project = session_.project();
    if (!stale_ && ground == loaded_ && project.surfaces == loadedUses_) {
        return;
    }
    stale_ = false;
    loaded_ = ground;
    loadedUses_ = project.surfaces;
    const LevelModel model = ground ? levelModel(ground->mesh(),
                                                 [&](const std::string& surface) {
                                                     const Surface found =
                                                         materialOf(project.materials, project.surfaces, surface);
                                                     return found.material->id.text.find("glass") != std::string::npos;
                                                 })
                                    : LevelModel{};
    fill(solid_, model.faces, LevelModel::faceFloats);
    fill(glass_, model.glass, LevelModel::faceFloats);
    fill(edges_, model.edges, LevelModel::edgeFloats);
}

void EyesView::drawFaces(Batch& batch, const QMatrix4x4& model, const QVector4D& colour)
{
    if (batch.corners == 0) {
        return;
    }
    faces_->bind();
    faces_->setUniformValue("matrix", sight().matrix());
    faces_->setUniformValue("model", model);
    faces_->setUniformValue("eyes", vectorOf(playback_.eyes().at));
    faces_->setUniformValue("colour", colour);
    faces_->setUniformValue("paper", vectorOf({theme::paper.redF(), theme::paper.greenF(), theme::paper.blueF()}));
    batch.buffer.bind();
    constexpr int stride = LevelModel::faceFloats * static_cast<int>(sizeof(float));
    faces_->enableAttributeArray(0);
    faces_->enableAttributeArray(1);
    faces_->setAttributeBuffer(0, GL_FLOAT, 0, 3, stride);
    faces_->setAttributeBuffer(1, GL_FLOAT, 3 * sizeof(float), 3, stride);
    glDrawArrays(GL_TRIANGLES, 0, batch.corners);
    faces_->disableAttributeArray(0);
    faces_->disableAttributeArray(1);
    batch.buffer.release();
    faces_->release();
}

void EyesView::drawEdges()
{
    if (edges_.corners == 0) {
        return;
    }
    lines_->bind();
    lines_->setUniformValue("matrix", sight().matrix());
    lines_->setUniformValue("eyes", vectorOf(playback_.eyes().at));
    lines_->setUniformValue("colour", colourOf(theme::ink, 0.8));
    edges_.buffer.bind();
    lines_->enableAttributeArray(0);
    lines_->setAttributeBuffer(0, GL_FLOAT, 0, 3);
    glDrawArrays(GL_LINES, 0, edges_.corners);
    lines_->disableAttributeArray(0);
    edges_.buffer.release();
    lines_->release();
}

void EyesView::drawFigure()
{
    const Stance& stance = playback_.stance();
    if (glm::length(playback_.eyes().at - stance.head.at) < inTheHead_m) {
        return;
    }
    // The eyes are a little below the crown.
    const auto tall = static_cast<float>((stance.head.at.z - stance.feet.at.z) * 1.06);
    QMatrix4x4 model;
    model.translate(vectorOf(stance.feet.at));
    model.rotate(static_cast<float>(-stance.feet.heading_deg), 0.0F, 0.0F, 1.0F);
    model.scale(tall);
    drawFaces(figure_, model, colourOf(theme::verdigris));
}

void EyesView::drawLevel()
{
    glClearColor(static_cast<float>(theme::paper.redF()), static_cast<float>(theme::paper.greenF()),
                 static_cast<float>(theme::paper.blueF()), 1.0F);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    glEnable(GL_DEPTH_TEST);
    glEnable(GL_BLEND);
    // What lies under the picture must not show through it.
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    // Faces step back a little, so that the lines on them stay whole.
    glEnable(GL_POLYGON_OFFSET_FILL);
    glPolygonOffset(1.0F, 1.0F);
    drawFaces(solid_, {}, colourOf(theme::floor));
    drawFigure();
    drawEdges();
    glDepthMask(GL_FALSE);
    drawFaces(glass_, {}, colourOf(theme::glass, 0.28));
    glDepthMask(GL_TRUE);
    glDisable(GL_POLYGON_OFFSET_FILL);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_BLEND);
}

void EyesView::paintGL()
{
    loadLevel();
    drawLevel();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const Sight seen = sight();
    LabelLayer labels(QRectF(rect()).adjusted(4, 4, -4, -4));
    labels.keepFree(QRectF(0, 0, width(), 28));
    labels.keepFree(QRectF(width() - 175, height() - 205, 175, 205));
    paintZones(painter, seen, labels);
    paintEmitters(painter, seen, labels);
    paintEars(painter, seen);
    labels.paint(painter);
    paintWords(painter);
}

bool EyesView::hidden(const Vec3& place) const
{
    const Vec3 from = playback_.eyes().at;
    const double distance = glm::length(place - from);
    // Not by what it sits in.
    return loaded_ && distance > ownHousing_m && !loaded_->clear(from, place + (from - place) * (ownHousing_m / distance));
}

std::optional<QPointF> EyesView::placeOf(const EmitterId& id) const
{
    const Emitter* emitter = session_.level().emitters.find(id);
    return emitter != nullptr ? sight().at(placeNow(playback_, *emitter)) : std::nullopt;
}

void EyesView::mousePressEvent(QMouseEvent* event)
{
    pressedAt_ = lastAt_ = event->position();
    looked_ = event->button() != Qt::LeftButton;
}

void EyesView::mouseMoveEvent(QMouseEvent* event)
{
    const QPointF way = event->position() - pressedAt_;
    looked_ = looked_ || std::hypot(way.x(), way.y()) > click_px;
    if (looked_) {
        const QPointF by = event->position() - lastAt_;
        playback_.lookBy(by.x() * lookDegreesPerPixel, -by.y() * lookDegreesPerPixel);
        lastAt_ = event->position();
    }
}

void EyesView::mouseReleaseEvent(QMouseEvent* event)
{
    if (looked_) {
        return;
    }
    const Emitter* nearest = nullptr;
    double best_px = pick_px;
    for (const auto& emitter : session_.level().emitters) {
        const auto at = placeOf(emitter->id);
        const QPointF off = at ? *at - event->position() : QPointF(1e9, 1e9);
        if (const double distance = std::hypot(off.x(), off.y()); isOnPlan(*emitter) && distance < best_px) {
            best_px = distance;
            nearest = emitter.get();
        }
    }
    if (nearest != nullptr) {
        session_.selectOnly(nearest->id);
    } else {
        session_.selectNone();
    }
}

} // namespace stone
