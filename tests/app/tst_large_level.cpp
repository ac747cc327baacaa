// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"

#include "project/edit.h"
#include "support/one_of_many.h"

#include <cmath>

namespace tst_large_level
{

using namespace stone;

/// In a large level the scene is made on another thread: the document changes at once, what is heard of it a little later, and
/// nothing is ever shown of things under wrong numbers.
class TestLargeLevel : public QObject
{
    Q_OBJECT

    static constexpr int many = 320;

    /// A row of lamps, a metre apart.
    static std::string lamps()
    {
        QStringList emitters;
        for (int i = 0; i < many; ++i) {
            emitters << QString("{\"id\": \"e%1\", \"name\": \"Lamp %1\", \"sound\": \"tone\", \"at\": [%1, 3, 1.6]}").arg(i);
        }
        return "{\"sounds\": [{\"id\": \"tone\", \"file\": \"tone.wav\", \"loop\": true}], \"levels\": [{\"id\": \"hall\", "
               "\"emitters\": [" +
               emitters.join(", ").toStdString() + "]}]}";
    }

    static void moveTo(WindowFixture& f, int lamp, double y)
    {
        f.session->edit(withEmitter(f.session->project(), f.session->level().id, {"e" + std::to_string(lamp)},
                                    [&](Emitter& e) { e.at.y = y; }),
                        "Move", "drag");
    }

    static double shown_m(const WindowFixture& f, std::size_t lamp) { return f.playback->heard().at(lamp).bearing.distance_m; }

private slots:
    void whatIsHeardFollowsTheDocument()
    {
        WindowFixture f(lamps());
        f.waitForLoading();
        QSignalSpy changed(f.playback.get(), &Playback::sceneChanged);
        f.playback->placeFeet({{5.0, 0.0, 0.0}, 0.0});
        QVERIFY(std::abs(shown_m(f, 5) - 3.0) < 1e-6);
        moveTo(f, 5, 7.0);
        QCOMPARE(f.level().emitters[5]->at.y, 7.0);
        QTRY_VERIFY(std::abs(shown_m(f, 5) - 7.0) < 1e-6);
        QCOMPARE(changed.count(), 1);
        QCOMPARE(f.playback->hearing().level().emitters[5]->at.y, 7.0);
        f.session->undo();
        QTRY_VERIFY(std::abs(shown_m(f, 5) - 3.0) < 1e-6);
    }

    /// A drag never stops: what is heard still follows it, and ends where it ended.
    void aDragIsFollowedOnTheWay()
    {
        WindowFixture f(lamps());
        f.waitForLoading();
        f.playback->placeFeet({{9.0, 0.0, 0.0}, 0.0});
        QSignalSpy changed(f.playback.get(), &Playback::sceneChanged);
        double y = 3.0;
        for (int i = 0; i < 400 && changed.count() < 3; ++i) {
            moveTo(f, 9, y += 0.01);
            QTest::qWait(1);
        }
        QVERIFY(changed.count() >= 3);
        moveTo(f, 9, 12.5);
        QTRY_VERIFY(std::abs(shown_m(f, 9) - 12.5) < 1e-6);
    }

    /// What comes or goes is heard with the edit itself: numbers are others from then on.
    void whatComesOrGoesIsHeardAtOnce()
    {
        WindowFixture f(lamps());
        f.waitForLoading();
        f.playback->placeFeet({{9.0, 0.0, 0.0}, 0.0});
        moveTo(f, 9, 6.0); // on its way when the next edit comes
        f.session->select({{"e0"}, {"e1"}}, {"e0"});
        f.session->deleteSelected();
        QCOMPARE(f.playback->heard().size(), std::size_t{many - 2});
        QCOMPARE(f.playback->hearing().level().emitters[7]->id.text, std::string("e9"));
        QVERIFY(std::abs(shown_m(f, 7) - 6.0) < 1e-6);
        // The scene that was on its way is of another level by now, and is not taken.
        QTest::qWait(100);
        QCOMPARE(f.playback->heard().size(), std::size_t{many - 2});
        QVERIFY(std::abs(shown_m(f, 7) - 6.0) < 1e-6);
        f.session->undo();
        QCOMPARE(f.playback->heard().size(), std::size_t{many});
        // Another kind is another thing too.
        f.session->selectOnly({"e3"});
        f.session->editSubject("Area", {}, [](Emitter& e) { e.kind = EmitterKind::area; });
        QCOMPARE(f.playback->hearing().level().emitters[3]->kind, EmitterKind::area);
        QVERIFY(f.playback->hearing().world().solidOf(3) != nullptr);
    }

    /// Edited while it plays: what comes out is another level soon after, without a break.
    void anEditIsHeardWhileItPlays()
    {
        WindowFixture f(lamps());
        f.waitForLoading();
        f.playback->placeFeet({{160.0, 0.0, 0.0}, 0.0});
        f.playback->setMonitor_db(-20.0); // so many lamps are too loud for anybody's ears
        f.playback->setListening(true);
        const double before_db = fixture::energy_db(f.pass(0.5), 0.3, 0.5);
        QSignalSpy changed(f.playback.get(), &Playback::sceneChanged);
        f.session->editSound({"tone"}, "softer", {}, [](Sound& s) { s.level_db = -20.0; });
        QTRY_VERIFY(changed.count() >= 1);
        const double after_db = fixture::energy_db(f.pass(0.5), 0.3, 0.5);
        QVERIFY2(std::abs(before_db - after_db - 20.0) < 0.1, qPrintable(QString::number(before_db - after_db)));
    }

    /// Closed while a scene is on its way.
    void closingDoesNotWaitForWhatNobodyWants()
    {
        for (int i = 0; i < 5; ++i) {
            WindowFixture f(lamps());
            f.waitForLoading();
            moveTo(f, 1, 2.0 + i);
            moveTo(f, 2, 2.0 + i);
        }
    }
};

} // namespace tst_large_level

STONE_TEST(tst_large_level, TestLargeLevel)
#include "tst_large_level.moc"
