// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/earshot_panel.h"
#include "app/window_fixture.h"
#include "project/edit.h"
#include "support/one_of_many.h"
#include "world/planting.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QPushButton>

namespace tst_plant_window
{

using namespace stone;

namespace
{

/// A lamp of which more are to be planted.
struct Yard : WindowFixture {
    Yard() : WindowFixture(oneTone) {}

    const PlantedRule& rule() const { return playback->hearing().world().planted().rules.at(0); }
    const Plant& plant() const { return *level().plants[0]; }
    std::size_t planted() const { return rule().copies.size(); }
    QPointF onPlan(const Vec3& place) { return plan().camera().toScreen(place); }
    QString count() { return find<QLabel>("plantCount")->text(); }

    /// By menu, of the lamp, along a line of 20 m.
    void plantRow()
    {
        session->selectOnly({"a"});
        menu("Plant rule");
        type("plantEast", "0");
        type("plantNorth", "0");
        type("plantUp", "0");
        type("plantEvery", "4");
        find<QCheckBox>("plantOn")->click();
    }
};

} // namespace

/// Plant rules in the whole window, by mouse and keyboard.
class TestPlantWindow : public QObject
{
    Q_OBJECT

private slots:
    void moreOfWhatIsSelectedIsShownBeforeItIsPlanted()
    {
        Yard f;
        f.session->selectOnly({"a"});
        f.menu("Plant rule");
        QCOMPARE(f.level().plants.size(), std::size_t{1});
        QCOMPARE(f.session->project().patterns.size(), std::size_t{1});
        QCOMPARE(f.level().emitters[0]->pattern, f.plant().pattern);
        QVERIFY(f.session->selected<Plant>() != nullptr);
        QVERIFY(!f.plant().on);
        QCOMPARE(f.planted(), std::size_t{0});
        QCOMPARE(f.count(), QString("Would plant 5."));
        f.type("plantEvery", "2");
        QCOMPARE(f.count(), QString("Would plant 11."));
        const std::size_t heardBefore = f.playback->heard().size();
        f.find<QCheckBox>("plantOn")->click();
        QCOMPARE(f.count(), QString("11 are planted."));
        QCOMPARE(f.planted(), std::size_t{11});
        QCOMPARE(f.playback->heard().size(), heardBefore + 11);
        f.session->undo();
        QCOMPARE(f.planted(), std::size_t{0});
        f.session->undo();
        f.session->undo();
        QVERIFY(f.level().plants.empty());
        QVERIFY(f.level().emitters[0]->pattern.empty()); // rule and pattern were one step
    }

    void withoutAnythingSelectedItSaysWhatToDo()
    {
        Yard f;
        f.session->selectNone();
        f.menu("Plant rule");
        QVERIFY(f.level().plants.empty());
        QVERIFY(f.find<QLabel>("bannerText")->text().contains("Select an emitter first"));
    }

    void aCornerThatIsPulledPlantsAnew()
    {
        Yard f;
        f.plantRow();
        QCOMPARE(f.planted(), std::size_t{6});
        f.plan().fitAll();
        const auto before = f.rule().copies;
        f.drag(&f.plan(), f.onPlan({10, 0, 0}), f.onPlan({10, 0, 0}) + QPointF(0, -80));
        QVERIFY(f.planted() >= 6);
        QVERIFY(f.rule().copies.back()->at.y > 0.5);
        f.session->undo();
        QCOMPARE(f.planted(), std::size_t{6});
        for (std::size_t i = 0; i < 6; ++i) {
            QCOMPARE(f.rule().copies[i]->id, before[i]->id);
        }
    }

    void aDrawnLineIsFollowed()
    {
        Yard f;
        f.plantRow();
        f.find<QPushButton>("plantDraw")->click();
        for (const Vec3& at : {Vec3{-6, -6, 0}, Vec3{6, -6, 0}, Vec3{6, 6, 0}}) {
            f.click(f.onPlan(at));
        }
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        const auto& ribbon = std::get<Ribbon>(f.plant().shape);
        QCOMPARE(ribbon.points.size(), std::size_t{3});
        QCOMPARE(f.planted(), std::size_t{7}); // 24 m
        QVERIFY(glm::distance(Vec2(f.rule().places.front().at), Vec2(-6, -6)) < 0.3);
        QVERIFY(glm::distance(Vec2(f.rule().places.back().at), Vec2(6, 6)) < 0.3);
        // Round again to where it began.
        f.find<QCheckBox>("plantClosed")->click();
        QVERIFY(f.planted() > 7);
    }

    void oneOfThemHasALevelOfItsOwnIsLeftOutOrLetLoose()
    {
        Yard f;
        f.plantRow();
        f.plan().fitAll();
        const auto ids = [&] {
            std::vector<EmitterId> all;
            for (const auto& copy : f.rule().copies) {
                all.push_back(copy->id);
            }
            return all;
        };
        const auto before = ids();
        f.click(f.onPlan(f.rule().copies[1]->at));
        QCOMPARE(f.session->copyInHand(), before[1]);
        QVERIFY(f.find<QLabel>("plantCopy")->text().startsWith("Lamp 2"));
        QVERIFY(f.find<QLabel>("plantCopy")->text().contains("dB at the ears"));
        f.find<QCheckBox>("plantOwnLevel")->click();
        f.type("plantLevel", "-12");
        QCOMPARE(f.rule().copies[1]->level_db, -12.0);
        QCOMPARE(f.plant().exceptions.size(), std::size_t{1});
        QCOMPARE(ids(), before);
        f.find<QPushButton>("plantLeaveOut")->click();
        QCOMPARE(f.planted(), std::size_t{5});
        QCOMPARE(f.find<QPushButton>("plantPutBack")->text(), QString("Put 1 back"));
        f.find<QPushButton>("plantPutBack")->click();
        QCOMPARE(f.rule().copies[1]->level_db, -12.0); // what else was said of it holds
        f.click(f.onPlan(f.rule().copies[2]->at));
        f.find<QPushButton>("plantLetLoose")->click();
        QCOMPARE(f.planted(), std::size_t{5});
        QVERIFY(f.level().emitters.find(before[2]) != nullptr);
        QVERIFY(f.session->primary() != nullptr && f.session->primary()->id == before[2]); // and on the bench
        f.session->undo();
        QCOMPARE(ids(), before);
    }

    void theListHasThemWhereTheyAreHeard()
    {
        Yard f;
        f.plantRow();
        f.playback->setListening(true);
        f.pass(0.3);
        const EmitterId nearest = f.rule().copies[2]->id;
        f.session->selectNone();
        f.session->selectOnly(nearest); // as a click in the list does
        QVERIFY(f.session->selected<Plant>() != nullptr);
        QCOMPARE(f.session->copyInHand(), nearest);
        // Several that are chosen together: only emitters of the document can be.
        f.session->select({EmitterId{"a"}, nearest}, {"a"});
        QCOMPARE(f.session->selection(), (std::set<EmitterId>{{"a"}}));
    }

    void otherPlacesAskForWhatTheyNeed()
    {
        Yard f;
        f.plantRow();
        f.choose("plantWhere", "along edges of the floor");
        QVERIFY(f.count().contains("there is none"));
        QVERIFY(WindowFixture::isShown(f.find<QCheckBox>("plantDrops")));
        f.choose("plantWhere", "strewn in a shape");
        QVERIFY(f.plant().apart_m > 0.0);
        QVERIFY(f.planted() > 0);
        f.type("plantApart", "0");
        QVERIFY(f.plant().apart_m > 0.0);
        f.choose("plantWhere", "along a drawn line");
        QVERIFY(std::holds_alternative<Ribbon>(f.plant().shape));
        f.choose("plantWhere", "along a Roamer's way");
        QVERIFY(f.count().contains("no such Roamer"));
        f.choose("plantWhere", "in openings");
        QVERIFY(f.count().contains("no place is as it asks for"));
    }

    void rulesAreDoubledCopiedRenamedAndDeletedLikeEverything()
    {
        Yard f;
        f.plantRow();
        f.menu("Duplicate");
        QCOMPARE(f.level().plants.size(), std::size_t{2});
        QVERIFY(f.level().plants[1]->name != f.level().plants[0]->name);
        f.menu("Copy");
        f.menu("Paste where it was");
        QCOMPARE(f.level().plants.size(), std::size_t{3});
        QTest::keyClick(&f.plan(), Qt::Key_Delete);
        QCOMPARE(f.level().plants.size(), std::size_t{2});
        QCOMPARE(f.playback->hearing().world().planted().rules.size(), std::size_t{2});
    }

    void tenThousandStayUsable()
    {
        Yard f;
        f.plantRow();
        f.session->edit(withLevel(f.session->project(), f.session->levelId(),
                                  [](Level& level) {
                                      Plant many = *level.plants[0];
                                      many.where = Plant::Where::shape;
                                      many.shape = Box{{400, 400, 3}};
                                      many.apart_m = 3.0;
                                      level.plants.put(many);
                                  }),
                        "many");
        QTRY_VERIFY_WITH_TIMEOUT(f.planted() > 9'000, 20'000);
        f.plan().fitAll();
        f.plan().grab();
        const std::size_t heard = f.playback->heard().size();
        QCOMPARE(heard, f.planted() + 1);
        // All of them follow their pattern; none of them is looked for again.
        const auto spots = f.rule().spots;
        Pattern louder = *f.session->project().patterns[0];
        louder.settings.level_db = -3.0;
        f.session->edit(withPattern(f.session->project(), louder), "louder");
        QTRY_COMPARE_WITH_TIMEOUT(f.rule().copies.front()->level_db, -3.0, 20'000);
        QVERIFY(f.rule().spots == spots);
        f.playback->setListening(true);
        f.pass(0.2);
        f.find<QPushButton>("plantAllLoose")->click();
        QTRY_COMPARE_WITH_TIMEOUT(f.planted(), std::size_t{0}, 20'000);
        QVERIFY(f.level().emitters.size() > 9'000);
    }
};

} // namespace tst_plant_window

STONE_TEST(tst_plant_window, TestPlantWindow)
#include "tst_plant_window.moc"
