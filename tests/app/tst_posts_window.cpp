// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/posts/post_desk.h"
#include "app/posts/posts_dialog.h"
#include "app/posts/solve_dialog.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "support/one_of_many.h"

#include <QAction>
#include <QElapsedTimer>
#include <QMenu>

#include <cmath>

namespace tst_posts_window
{

using namespace stone;

namespace
{

const std::string yard = R"({
  "name": "Post yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 1, "silent_at_m": 60}]}],
  "levels": [{"id": "yard", "character": {"at": [0, 0, 0]}, "emitters": [
    {"id": "a", "name": "Lamp", "at": [0, 5, 1.6], "sound": "tone", "falloff": "yard"}],
   "walks": [{"id": "w", "name": "Along", "points": [{"t_s": 0, "at": [0, 0, 0]}, {"t_s": 2, "at": [0, 4, 0]}]}],
   "posts": [{"id": "spot", "name": "Lamp at the gate", "at": [0, 0, 0], "emitter": "a", "least_db": -16, "most_db": -12},
             {"id": "way", "name": "Lamp along", "where": "walk", "walk": "w", "expects": "heard", "emitter": "a"}]}]
})";

} // namespace

/// Posts in the whole window: judged as one works, made where one stands, and who broke them.
class TestPostsWindow : public QObject
{
    Q_OBJECT

    static constexpr int soon_ms = 20'000;

    static PostDesk& deskOf(WindowFixture& f) { return *f.window->findChild<PostDesk*>(); }

    static bool waitFor(WindowFixture& f, const PostId& id, bool met)
    {
        PostDesk& desk = deskOf(f);
        return QTest::qWaitFor([&] { return desk.resultOf(id) != nullptr && !desk.stale(id) && desk.resultOf(id)->met == met; },
                               soon_ms);
    }

private slots:
    /// An edit breaks one, undoing mends it; the flag on the Plan says so; the list says by how much.
    void judgedAsOneWorks()
    {
        WindowFixture f(yard);
        QVERIFY(waitFor(f, {"spot"}, true));
        QVERIFY(f.plan().postMarks().size() == 1 && !f.plan().postMarks()[0].broken);
        f.menu("Posts: what is expected…");
        auto* dialog = f.window->findChild<PostsDialog*>();
        QVERIFY(dialog != nullptr && dialog->isVisible());
        QVERIFY(f.find<QLabel>("postsWords")->text().startsWith("Holds"));
        f.session->selectOnly({"a"});
        f.session->editSelected("softer", {}, [](Emitter& emitter) { emitter.level_db = -9.0; });
        QVERIFY(waitFor(f, {"spot"}, false));
        QVERIFY(f.plan().postMarks()[0].broken);
        QVERIFY(f.find<QLabel>("postsSummary")->text().contains("1 of 2"));
        QVERIFY2(f.find<QLabel>("postsWords")->text().contains(QString::fromUtf8("−23.0 dB")),
                 qPrintable(f.find<QLabel>("postsWords")->text()));
        f.session->undo();
        QVERIFY(waitFor(f, {"spot"}, true));
    }

    /// Along walks on a worker, at once when it is asked for.
    void alongWalks()
    {
        WindowFixture f(yard);
        f.menu("Posts: what is expected…");
        QVERIFY(deskOf(f).resultOf({"way"}) == nullptr);
        QTest::mouseClick(f.find<QPushButton>("postsWalk"), Qt::LeftButton);
        QVERIFY(waitFor(f, {"way"}, true));
        f.session->selectOnly({"a"});
        f.session->editSelected("muted", {}, [](Emitter& emitter) { emitter.muted = true; });
        QVERIFY(deskOf(f).stale({"way"}));
        QTest::mouseClick(f.find<QPushButton>("postsWalk"), Qt::LeftButton);
        QVERIFY(waitFor(f, {"way"}, false));
        QCOMPARE(f.plan().postMarks().size(), std::size_t(2)); // where it is broken there is a flag
    }

    /// The edit that broke it, among many, by halves.
    void whoBrokeIt()
    {
        WindowFixture f(yard);
        QVERIFY(waitFor(f, {"spot"}, true));
        f.session->selectOnly({"a"});
        for (int i = 0; i < 9; ++i) {
            f.session->editSelected(i == 5 ? "much softer" : QString("pitch %1").arg(i), {}, [i](Emitter& emitter) {
                emitter.pitch_st = i;
                emitter.level_db = i == 5 ? -12.0 : emitter.level_db;
            });
        }
        QVERIFY(waitFor(f, {"spot"}, false));
        QSignalSpy said(&deskOf(f), &PostDesk::brokenBy);
        deskOf(f).findBreaker({"spot"});
        QVERIFY(said.wait(soon_ms));
        QVERIFY2(said[0][1].toString().contains("much softer"), qPrintable(said[0][1].toString()));
        // What never held was broken from the beginning.
        Post never = *f.level().posts.find({"spot"});
        never.least_db = never.most_db = 3.0;
        f.session->edit(withLevel(f.session->project(), {"yard"}, [&](Level& level) { level.posts.put(never); }), "wish");
        QVERIFY(QTest::qWaitFor([&] { return !deskOf(f).stale({"spot"}); }, soon_ms));
        deskOf(f).findBreaker({"spot"});
        QVERIFY(said.wait(soon_ms));
        QVERIFY(said[1][1].toString().contains("as far back"));
    }

    /// Made where one stands: it holds, says whose, and is one step; not heard likewise. By the form it becomes something else.
    void madeHere()
    {
        WindowFixture f(yard);
        f.menu("Posts: what is expected…");
        f.session->selectOnly({"a"});
        QTest::mouseClick(f.find<QPushButton>("postsHeard"), Qt::LeftButton);
        QCOMPARE(f.level().posts.size(), std::size_t(3));
        const Post made = *f.level().posts[2];
        QCOMPARE(made.emitter, EmitterId{"a"});
        QVERIFY(std::abs(made.most_db - made.least_db - 4.0) < 1e-9);
        QVERIFY(std::abs((made.most_db + made.least_db) / 2.0 + 14.0) < 0.1); // 5 m from it
        QVERIFY(waitFor(f, made.id, true));
        f.choose("postExpects", "no jumps over");
        const Post& jumps = *f.level().posts.find(made.id);
        QVERIFY(jumps.expects == Post::Expects::jumps && jumps.where == Post::Where::level); // it cannot stand still
        f.choose("postWhere", "at a spot");
        QCOMPARE(f.level().posts.find(made.id)->expects, Post::Expects::level);
        f.type("postLeast", "-30");
        QCOMPARE(f.level().posts.find(made.id)->least_db, -30.0);
        QTest::mouseClick(f.find<QPushButton>("postsRemove"), Qt::LeftButton);
        QCOMPARE(f.level().posts.size(), std::size_t(2));
        f.session->undo();
        QCOMPARE(f.level().posts.size(), std::size_t(3));
        QVERIFY(expectUnheard(*f.session, *f.playback));
        QVERIFY(waitFor(f, f.level().posts[3]->id, false));
        Pose away = f.playback->feet();
        away.at = {0.0, -80.0, 0.0};
        f.playback->placeFeet(away);
        QVERIFY(!expectWhatIsHeard(*f.session, *f.playback, 2.0)); // beyond its reach
    }

    /// Wishes pinned where one stands: tried before they are accepted, and one step when they are; what would break is said.
    void solvedForMe()
    {
        WindowFixture f(yard);
        f.session->selectOnly({"a"});
        f.menu("Solve for me: how it is to be heard…");
        auto* dialog = f.window->findChild<SolveDialog*>();
        QVERIFY(dialog != nullptr && dialog->isVisible());
        QVERIFY(!f.find<QPushButton>("solveAccept")->isEnabled());
        QTest::mouseClick(f.find<QPushButton>("solveWishLevel"), Qt::LeftButton);
        QCOMPARE(dialog->wishes().size(), std::size_t(1));
        QVERIFY(std::abs(dialog->wishes()[0].value + 14.0) < 0.1); // as it is
        auto* table = f.find<CellTable>("wishes");
        table->item(0, 3)->setText("-20");
        QVERIFY(dialog->solution().possible && dialog->solution().outcomes[0].met);
        QVERIFY2(f.find<QLabel>("solveWords")->text().contains("Lamp at the gate"),
                 qPrintable(f.find<QLabel>("solveWords")->text()));
        QCOMPARE(f.plan().postMarks().size(), std::size_t(2)); // the post and the wish
        const auto document = f.session->document();
        const auto levelHere = [&] { return f.playback->heard()[0].level_db; };
        QVERIFY(std::abs(levelHere() + 14.0) < 0.1);
        QTest::mouseClick(f.find<QCheckBox>("solveTry"), Qt::LeftButton, Qt::NoModifier, QPoint(8, 8));
        QVERIFY(f.find<QCheckBox>("solveTry")->isChecked());
        QVERIFY2(std::abs(levelHere() + 20.0) < 0.1, qPrintable(QString::number(levelHere())));
        QVERIFY(f.session->document() == document);
        QTest::mouseClick(f.find<QPushButton>("solveAccept"), Qt::LeftButton);
        QVERIFY(!f.playback->otherwise().falloff && std::abs(levelHere() + 20.0) < 0.1);
        QVERIFY(f.session->undoName().contains("as wished"));
        f.session->undo();
        QVERIFY(std::abs(levelHere() + 14.0) < 0.1);
        // Gone where it is heard: a contradiction that is named.
        QTest::mouseClick(f.find<QPushButton>("solveWishGone"), Qt::LeftButton);
        QVERIFY(f.find<QLabel>("solveWords")->text().contains("silent at"));
        table->setCurrentCell(1, 0);
        QTest::mouseClick(f.find<QPushButton>("solveRemove"), Qt::LeftButton);
        QCOMPARE(dialog->wishes().size(), std::size_t(1));
        QTest::mouseClick(f.find<QPushButton>("solveWishDull"), Qt::LeftButton);
        QVERIFY(dialog->solution().outcomes[1].met && dialog->solution().outcomes[1].after < 2'021.0);
        dialog->hide();
        QCOMPARE(f.plan().postMarks().size(), std::size_t(1));
    }

    /// The menu of the right button on the ears.
    void byTheRightButton()
    {
        WindowFixture f(yard);
        f.session->selectOnly({"a"});
        bool offered = false;
        QTimer::singleShot(300, f.window.get(), [&] {
            if (auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget())) {
                offered = menu->actions().size() == 4;
                menu->setActiveAction(menu->actions().front());
                QTest::keyClick(menu, Qt::Key_Return);
            }
        });
        QTest::mouseClick(&f.plan(), Qt::RightButton, Qt::NoModifier, f.plan().placeOfEars().toPoint());
        QVERIFY(offered);
        QCOMPARE(f.level().posts.size(), std::size_t(3));
    }

    /// Two hundred at spots are judged anew as quickly as one works.
    void twoHundred()
    {
        WindowFixture f(yard);
        Project many = withLevel(f.session->project(), {"yard"}, [](Level& level) {
            for (int i = 0; i < 200; ++i) {
                Post post = *level.posts.find({"spot"});
                post.id = {"many-" + std::to_string(i)};
                post.at.x = i * 0.1;
                level.posts.put(post);
            }
        });
        f.session->edit(std::move(many), "many");
        QVERIFY(QTest::qWaitFor([&] { return !deskOf(f).stale({"many-199"}); }, soon_ms));
        QCOMPARE(f.plan().postMarks().size(), std::size_t(201));
        QVERIFY(deskOf(f).broken() > 50);
    }
};

} // namespace tst_posts_window

STONE_TEST(tst_posts_window, TestPostsWindow)
#include "tst_posts_window.moc"
