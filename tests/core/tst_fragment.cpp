// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/fragment.h"

#include "project/read.h"
#include "project/references.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QTest>

#include <set>

namespace tst_fragment
{

using namespace stone;

/// Things are copied with what they need, and come in again beside what is there.
class TestFragment : public QObject
{
    Q_OBJECT

    static Material tin(double density_kg_m2)
    {
        Material material;
        material.id = {"tin"};
        material.name = "Tin";
        material.density_kg_m2 = density_kg_m2;
        return material;
    }

    /// A drip that plays "Drop", sounds by a shared falloff in a zone, and starts at a signal.
    static Project yard()
    {
        Project project = blankProject();
        project.name = "Yard";
        Sound drop;
        drop.id = {"drop"};
        drop.name = "Drop";
        project.sounds.append(drop);
        Sound other;
        other.id = {"other"};
        other.name = "Other";
        project.sounds.append(other);
        Signal rain;
        rain.id = {"rain"};
        rain.name = "Rain begins";
        project.signalNames.append(rain);
        project.materials.push_back(tin(20.0));
        Emitter drip;
        drip.id = {"drip"};
        drip.name = "Drip";
        drip.sound = {"drop"};
        drip.falloff = project.falloffs[0]->id;
        drip.zone = {"court"};
        drip.starting.starts.front().cause = Cause::signal;
        drip.starting.starts.front().signal = {"rain"};
        Zone court;
        court.id = {"court"};
        court.name = "Court";
        Opening gate;
        gate.id = {"gate"};
        gate.name = "Gate";
        gate.leaf = {"tin"};
        return withLevel(std::move(project), {"level"}, [&](Level& level) {
            level.emitters.append(drip);
            level.zones.append(court);
            level.openings.append(gate);
        });
    }

    static Level levelOf(const Project& project) { return *project.levels[0]; }

private slots:
    void whatIsNeededComesAlongAndNothingElse()
    {
        const Project fragment = fragmentOf(yard(), {"level"}, {.emitters = {{"drip"}}});
        QCOMPARE(fragment.sounds.size(), 1U);
        QCOMPARE(fragment.sounds[0]->name, std::string("Drop"));
        QCOMPARE(fragment.signalNames.size(), 1U);
        QCOMPARE(fragment.falloffs.size(), 1U);
        QVERIFY(fragment.materials.empty());
        QCOMPARE(levelOf(fragment).emitters.size(), 1U);
        QVERIFY(levelOf(fragment).zones.empty());
        QCOMPARE(fragmentOf(yard(), {"level"}, {.openings = {{"gate"}}}).materials.size(), 1U);
    }

    void aFragmentIsADocument()
    {
        const Project fragment = fragmentOf(yard(), {"level"}, {.emitters = {{"drip"}}, .zones = {{"court"}}});
        QVERIFY(readProjectText(projectText(fragment), "clipboard").project == fragment);
    }

    void inTheSameProjectItPlaysTheSameSound()
    {
        const Project project = yard();
        const Project fragment = fragmentOf(project, {"level"}, {.emitters = {{"drip"}}});
        // The sound was changed since: it is still that sound.
        Project later = project;
        Sound drop = *later.sounds.find({"drop"});
        drop.level_db = -6.0;
        later.sounds.put(drop);
        const Pasted pasted = withFragment(later, {"level"}, fragment);
        QVERIFY(pasted.project.sounds == later.sounds);
        QVERIFY(pasted.sounds.empty());
        const Emitter* copy = levelOf(pasted.project).emitters.find(*pasted.things.emitters.begin());
        QVERIFY(copy != nullptr);
        QCOMPARE(copy->name, std::string("Drip 2"));
        QVERIFY(copy->id != EmitterId{"drip"});
        QCOMPARE(copy->sound, SoundId{"drop"});
        QCOMPARE(copy->zone, ZoneId{"court"});
    }

    void elsewhereAnotherSoundOfThatIdStaysWhatItIs()
    {
        const Project fragment =
            fragmentOf(yard(), {"level"}, {.emitters = {{"drip"}}, .zones = {{"court"}}, .openings = {{"gate"}}});
        Project other = blankProject();
        other.name = "Harbour";
        Sound drop;
        drop.id = {"drop"};
        drop.name = "Drop";
        drop.level_db = 3.0;
        other.sounds.append(drop);
        other.materials.push_back(tin(5.0));
        const Pasted pasted = withFragment(other, {"level"}, fragment);
        QCOMPARE(pasted.project.sounds.size(), 2U);
        QCOMPARE(pasted.sounds.size(), 1U);
        QVERIFY(*pasted.project.sounds.find({"drop"}) == drop);
        const Level level = levelOf(pasted.project);
        const Emitter& copy = *level.emitters[0];
        QCOMPARE(copy.sound, pasted.sounds.front());
        QCOMPARE(pasted.project.sounds.find(copy.sound)->name, std::string("Drop 2"));
        QCOMPARE(copy.zone, level.zones[0]->id);
        QCOMPARE(pasted.project.signalNames.size(), 1U);
        QCOMPARE(pasted.project.materials.size(), 2U);
        QCOMPARE(level.openings[0]->leaf, pasted.project.materials[1].id);
        QVERIFY(pasted.project.materials[1].id != MaterialId{"tin"});
    }

    /// Whatever a document holds: twice into itself, what came refers to nothing but what is there or was already missing.
    void anyDocument()
    {
        for (unsigned seed = 1; seed <= 60; ++seed) {
            const Project project = fixture::randomProject(seed);
            const Level& level = *project.levels[0];
            LevelThings all;
            for (const auto& emitter : level.emitters) {
                all.emitters.insert(emitter->id);
            }
            for (const auto& zone : level.zones) {
                all.zones.insert(zone->id);
            }
            for (const auto& walk : level.walks) {
                all.walks.insert(walk->id);
            }
            const Project fragment = fragmentOf(project, level.id, all);
            QVERIFY(readProjectText(projectText(fragment), "clipboard").project == fragment);
            const Pasted pasted = withFragment(project, level.id, fragment);
            const Level* after = pasted.project.levels.find(level.id);
            QCOMPARE(after->emitters.size(), 2 * level.emitters.size());
            QCOMPARE(after->zones.size(), 2 * level.zones.size());
            QVERIFY(pasted.project.sounds == project.sounds);
            std::set<std::string> ids;
            for (const auto& emitter : after->emitters) {
                QVERIFY(ids.insert(emitter->id.text).second);
            }
            // A copy belongs to the copy of its zone.
            for (std::size_t i = 0; i < level.emitters.size(); ++i) {
                const Emitter& copy = *after->emitters[level.emitters.size() + i];
                const auto zone = level.zones.indexOf(level.emitters[i]->zone);
                if (zone) {
                    QCOMPARE(copy.zone, after->zones[level.zones.size() + *zone]->id);
                }
            }
            QVERIFY(readProjectText(projectText(pasted.project), "document").project == pasted.project);
        }
    }

    void usersAreNamed()
    {
        const Project project = yard();
        QCOMPARE(whoUses(project, SoundId{"drop"}), std::vector<std::string>{"emitter Drip"});
        QVERIFY(whoUses(project, SoundId{"other"}).empty());
        QVERIFY(whoUses(project, SoundId{}).empty());
        QCOMPARE(whoUses(project, SignalId{"rain"}), std::vector<std::string>{"emitter Drip"});
        QCOMPARE(whoUses(project, MaterialId{"tin"}), std::vector<std::string>{"opening Gate"});
        QCOMPARE(whoUses(project, ZoneId{"court"}, {"level"}), std::vector<std::string>{"emitter Drip"});
        QVERIFY(whoUses(project, ZoneId{"court"}, {"another"}).empty());
    }
};

} // namespace tst_fragment

STONE_TEST(tst_fragment, TestFragment)
#include "tst_fragment.moc"
