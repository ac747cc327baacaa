// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/dial/ear_dial.h"
#include "app/eyes/eyes_view.h"
#include "app/eyes/level_model.h"
#include "app/eyes/sight.h"
#include "app/theme/theme.h"
#include "app/window_fixture.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <cmath>

namespace tst_eyes
{

using namespace stone;

/// The walk-through view, drawn by the software renderer in a real window.
class TestEyes : public QObject
{
    Q_OBJECT

private:
    static QColor at(const QImage& picture, const QPointF& place) { return picture.pixelColor(place.toPoint()); }

private slots:
    /// The marks and the picture behind them are put in the same place.
    void marksAndMatrixAgree()
    {
        const Sight sight({{3, -2, 1.6}, 40, -10, 5}, {640, 400});
        for (const Vec3& place : {Vec3{8, 4, 2}, Vec3{12, 1, -1}, Vec3{4, 9, 6}}) {
            const QVector4D clip = sight.matrix() * QVector4D(static_cast<float>(place.x), static_cast<float>(place.y),
                                                              static_cast<float>(place.z), 1);
            const QPointF drawn((clip.x() / clip.w() + 1.0) * 320.0, (1.0 - clip.y() / clip.w()) * 200.0);
            const auto seen = sight.at(place);
            QVERIFY(seen && std::hypot(seen->x() - drawn.x(), seen->y() - drawn.y()) < 0.1);
        }
        QVERIFY(!sight.at({-8, -20, 1}));
        // A line that comes from behind begins at the picture's plane and runs the right way.
        const auto line = sight.line({3 - 10 * std::sin(radians(40.0)), -2 - 10 * std::cos(radians(40.0)), 0}, {8, 4, 2});
        QVERIFY(line &&
                std::hypot(line->second.x() - sight.at({8, 4, 2})->x(), line->second.y() - sight.at({8, 4, 2})->y()) < 0.1);
    }

    /// A box has twelve edges, flat faces none within; panes are kept apart.
    void edgesAreWhereFacesBend()
    {
        Mesh mesh;
        mesh.materials = {"brick", "glass"};
        fixture::addBox(mesh, {0, 0, 0}, {1, 2, 3});
        fixture::addSheet(mesh, {Vec3{5, 0, 0}, Vec3{6, 0, 0}, Vec3{6, 0, 2}, Vec3{5, 0, 2}}, 1);
        const LevelModel model = levelModel(mesh, [](const std::string& name) { return name == "glass"; });
        QCOMPARE(model.faces.size(), std::size_t(12 * 3 * LevelModel::faceFloats));
        QCOMPARE(model.glass.size(), std::size_t(2 * 3 * LevelModel::faceFloats));
        QCOMPARE(model.edges.size(), std::size_t((12 + 4) * 2 * LevelModel::edgeFloats));
    }

    void beside_insteadAndAway()
    {
        if (!EyesView::available()) {
            QSKIP("no OpenGL on this display");
        }
        WindowFixture f({}, false);
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.playback->placeFeet({{22, 11, 0}, 30, 0, 0});
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_F3);
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        auto* eyes = f.window->findChild<EyesView*>();
        QVERIFY(eyes != nullptr && eyes->isVisible() && f.plan().isVisible());
        // The level is in it: not the bare paper of the sheet.
        const QImage picture = eyes->grabFramebuffer();
        int drawn = 0;
        for (int x = 5; x < picture.width(); x += 10) {
            drawn += at(picture, QPointF(x, picture.height() * 0.55)) != theme::paper ? 1 : 0;
        }
        QVERIFY2(drawn > picture.width() / 20, qPrintable(QString::number(drawn)));
        // A mark is where placeOf() says, in its kind's colour, and a click on it selects.
        const auto clock = eyes->placeOf({"departure-board"});
        QVERIFY(clock.has_value());
        QTest::mouseClick(eyes, Qt::LeftButton, Qt::NoModifier, clock->toPoint());
        QVERIFY(f.session->primary() != nullptr && f.session->primary()->id == EmitterId{"departure-board"});
        QVERIFY(eyes->grabFramebuffer() != picture);
        // Dragging looks round; the character turns with it, and up no further than a neck goes.
        WindowFixture::drag(eyes, {300, 100}, {400, 100});
        QVERIFY(std::abs(f.playback->feet().heading_deg - 52.0) < 1.0);
        WindowFixture::drag(eyes, {300, 380}, {300, -2000});
        QVERIFY(f.playback->ears().pitch_deg > 80.0 && f.playback->ears().pitch_deg <= 85.0);
        f.playback->placeFeet({{22, 11, 0}, 30, 0, 0});
        // Instead of the Plan, the dial comes along.
        QTest::keyClick(f.window.get(), Qt::Key_F3);
        QVERIFY(eyes->isVisible() && !f.plan().isVisible() && f.window->findChild<EarDial*>()->isVisible());
        QTest::keyClick(f.window.get(), Qt::Key_F3);
        QVERIFY(!eyes->isVisible() && f.plan().isVisible() && f.window->findChild<EarDial*>()->isVisible());
    }

    /// From a camera behind it, the character stands in the picture; looking on, the observer leaves its ears there.
    void theCharacterIsAFigure()
    {
        if (!EyesView::available()) {
            QSKIP("no OpenGL on this display");
        }
        WindowFixture f(oneTone);
        Project next = f.session->project();
        next.rigs.put({.id = {"behind"},
                       .name = "Behind",
                       .kind = Rig::Kind::overShoulder,
                       .distance_m = 4.0,
                       .height_m = 0.0,
                       .angle_deg = 0.0});
        f.session->edit(next, "rig");
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_F3);
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        auto* eyes = f.window->findChild<EyesView*>();
        const auto middle = [&] {
            const QImage picture = eyes->grabFramebuffer();
            return at(picture, QPointF(picture.width() / 2.0, picture.height() * 0.62));
        };
        QVERIFY(middle() == theme::paper);
        QTest::keyClick(f.window.get(), Qt::Key_O);
        for (int i = 0; i < 60; ++i) {
            f.playback->tick(0.02);
        }
        const QColor figure = middle();
        QVERIFY2(figure.green() > figure.red() + 20, qPrintable(figure.name()));
    }
};

} // namespace tst_eyes

STONE_TEST(tst_eyes, TestEyes)
#include "tst_eyes.moc"
