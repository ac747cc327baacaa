// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/decibel.h"
#include "hearing/model.h"
#include "hearing/reasons.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_pose.h"

#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <random>

namespace tst_hearing
{

using namespace stone;

class TestHearing : public QObject
{
    Q_OBJECT

    static std::shared_ptr<const Project> randomProject(unsigned seed, int count)
    {
        std::mt19937 random(seed);
        std::uniform_real_distribution<double> place(-60.0, 60.0);
        std::uniform_real_distribution<double> level(-30.0, 6.0);
        std::uniform_real_distribution<double> size(0.5, 25.0);
        std::vector<Emitter> emitters;
        for (int i = 0; i < count; ++i) {
            Emitter emitter = fixture::pointAt("e" + std::to_string(i), {place(random), place(random), place(random) / 10.0});
            emitter.level_db = level(random);
            Falloff own;
            DistanceFormula& f = own.lanes.front().formula;
            f.model = static_cast<DistanceModel>(i % 3);
            f.reference_m = size(random) / 5.0;
            f.maximum_m = size(random);
            f.factor = i % 5 == 0 ? 0.5 : 1.0;
            f.silentAt_m = i % 2 == 0 ? size(random) : 0.0;
            emitter.falloff = own;
            emitter.muted = i % 11 == 0;
            emitters.push_back(emitter);
        }
        return std::make_shared<const Project>(fixture::projectWith(emitters));
    }

private slots:
    /// What is switched off says so, rather than that it is too soft or too far.
    void whatIsSilencedSaysByWhat()
    {
        Emitter loud = fixture::pointAt("loud", {0, 1, 0});
        Emitter alone = fixture::pointAt("alone", {0, 2, 0});
        Emitter far = fixture::pointAt("far", {0, 900, 0});
        ForEars forEars;
        const auto reason = [&](std::size_t index) {
            const auto project = std::make_shared<const Project>(fixture::projectWith({loud, alone, far}));
            const HearingModel model(std::make_shared<const World>(project, LevelId{"level"}, nullptr, LengthOf{}), forEars);
            return silencedBy(model, model.hearAll(Moment(Ears(Pose{}), TimeSpan{}))[index]);
        };
        QCOMPARE(reason(0), std::string());
        QCOMPARE(reason(2), std::string()); // only far
        forEars.solo = {alone.id};
        QCOMPARE(reason(0), std::string("something else is solo"));
        QCOMPARE(reason(1), std::string());
        forEars = {};
        forEars.muted = {loud.id};
        QCOMPARE(reason(0), std::string("muted for your ears only"));
        forEars = {};
        loud.muted = true;
        QCOMPARE(reason(0), std::string("muted by hand"));
    }

    /// What has nothing to play is silent for that reason, in list, Ledger and command line alike, and not as full as it is
    /// set.
    void whatHasNoSoundIsSilent()
    {
        Emitter dumb = fixture::pointAt("dumb", {0, 1, 0});
        dumb.sound = {};
        Emitter gone = fixture::pointAt("gone", {0, 1, 0});
        gone.sound = {"taken out"};
        Emitter empty = fixture::pointAt("empty", {0, 1, 0});
        empty.sound = {"empty"};
        Emitter steps = fixture::pointAt("steps", {0, 1, 0});
        steps.kind = EmitterKind::steps;
        steps.sound = {};
        const Emitter loud = fixture::pointAt("loud", {0, 1, 0});
        Project project = fixture::projectWith({dumb, gone, empty, steps, loud});
        Sound sound;
        sound.id = {"empty"};
        sound.name = "Empty";
        project.sounds.put(sound);
        const auto world =
            std::make_shared<const World>(std::make_shared<const Project>(project), LevelId{"level"}, nullptr, LengthOf{});

        // Sounds without files are known to have none once they were looked for.
        std::vector<bool> unreadable(world->playables().size());
        for (std::size_t i = 0; i < unreadable.size(); ++i) {
            unreadable[i] = world->playables()[i].sound->files.empty();
        }
        const HearingModel model(world, {}, unreadable);
        const std::vector<Heard> heard = model.hearAll(Moment(Ears(Pose{}), TimeSpan{}));
        const auto reason = [&](std::size_t index) { return silencedBy(model, heard[index]); };
        QCOMPARE(reason(0), std::string("no sound is chosen"));
        QCOMPARE(reason(1), std::string("no sound is chosen"));
        QCOMPARE(reason(2), std::string("its sound \"Empty\" has no file yet"));
        QCOMPARE(reason(4), std::string());
        for (const std::size_t index : {0U, 1U, 2U}) {
            QVERIFY(!heard[index].audible && heard[index].level_db < -100.0);
            QVERIFY(model.soundless(static_cast<std::uint32_t>(index), heard[index].start));
        }
        QVERIFY(heard[4].audible);
        // What is walked on has the sounds of steps.
        QVERIFY(!model.soundless(3, heard[3].start));
        // As long as nothing is known of the files, a sound counts as there: it may still be on its way into memory.
        const HearingModel loading(world);
        QVERIFY(loading.hearOne(Moment(Ears(Pose{}), TimeSpan{}), 2).audible);
    }

    /// The same where the file is missing on the disk, through the scene that plays.
    void whatCannotBeReadIsSilent()
    {
        QTemporaryDir folder;
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 480.0, 1.0);
        const auto heardWith = [&](const std::vector<std::string>& files) {
            Project project = fixture::projectWith({fixture::pointAt("a", {0, 1, 0})});
            Sound sound = *project.sounds.find({"tone"});
            sound.files.clear();
            for (const std::string& file : files) {
                sound.files.push_back({.file = file});
            }
            project.sounds.put(sound);
            SoundBank bank(48'000);
            const auto scene = makeScene(std::make_shared<const Project>(project), {"level"}, bank,
                                         filesInside(folder.path().toStdString()), Loading::now);
            const Heard heard = scene->model.hearOne(Moment(Ears(Pose{}), TimeSpan{}), 0);
            return std::pair(heard.audible, silencedBy(scene->model, heard));
        };
        QCOMPARE(heardWith({"tone.wav"}), std::pair(true, std::string()));
        QCOMPARE(heardWith({"missing.wav"}), std::pair(false, std::string("no file of its sound \"tone\" can be read")));
        QCOMPARE(heardWith({"../outside.wav"}).first, false);
        // Of several files one is enough.
        fixture::writeText(folder.filePath("broken.wav").toStdString(), "no sound at all");
        QCOMPARE(heardWith({"broken.wav"}).first, false);
        QCOMPARE(heardWith({"broken.wav", "tone.wav"}).first, true);
    }

    /// What was made for two ears stays in them, but is as loud as its place makes it.
    void soundsForTwoEarsFollowTheLevelOfTheirPlace()
    {
        Emitter emitter = fixture::pointAt("a", {0, 10, 0});
        Lane behind;
        behind.over = LaneInput::offFront;
        behind.shape = LaneShape::twoAngles;
        behind.angles.behind = -20.0;
        emitter.lanes = {behind};
        const auto heard = [&](double y, double heading_deg) {
            emitter.at.y = y;
            emitter.heading_deg = heading_deg;
            Project project = fixture::projectWith({emitter});
            Sound sound = *project.sounds.find({"tone"});
            sound.binaural = true;
            project.sounds.put(sound);
            const HearingModel model(std::make_shared<const Project>(project), {"level"});
            return model.hearAll(Moment(Ears(Pose{}), TimeSpan{}))[0];
        };
        const Heard near = heard(10.0, 180.0); // its front to the ears
        QCOMPARE(near.worldShare, 0.0);
        QVERIFY(std::abs(near.level_db + 20.0) < 1e-9); // the inverse model, from 1 m
        QVERIFY(std::abs(heard(90.0, 180.0).level_db + 20.0 * std::log10(90.0)) < 1e-9);
        QVERIFY(std::abs(heard(10.0, 0.0).level_db + 40.0) < 1e-9); // its back
    }

    void termsAddUpExactly()
    {
        const auto project = randomProject(3, 300);
        const HearingModel model(project, {"level"});
        for (const Heard& heard : model.hearAll({{1, 2, 1.6}, 30, 5, -3}, {})) {
            double sum = 0.0;
            for (const Term& term : heard.terms) {
                sum += term.db;
                QVERIFY(!reasonOf(model, heard, term).empty());
            }
            QVERIFY(sum == heard.level_db || (std::isinf(sum) && std::isinf(heard.level_db)));
        }
    }

    void levelsFollowTheFormulaInClosedForm()
    {
        // Inverse, reference 1 m: 6.02 dB less for each doubling.
        const auto project = std::make_shared<const Project>(fixture::projectWith({fixture::pointAt("a", {0, 0, 0})}));
        const HearingModel model(project, {"level"});
        for (const double d : {1.0, 2.0, 4.0, 8.0}) {
            const Heard heard = model.hearOne({{0, -d, 0}, 0, 0, 0}, {}, 0);
            QVERIFY(std::abs(heard.level_db + 20.0 * std::log10(d)) < 1e-9);
            QVERIFY(std::abs(heard.bearing.distance_m - d) < 1e-12);
        }
    }

    void whatIsInReachIsAllThatIsHeard()
    {
        const auto project = randomProject(4, 500);
        const HearingModel model(project, {"level"});
        std::mt19937 random(5);
        std::uniform_real_distribution<double> place(-70.0, 70.0);
        std::vector<Heard> near;
        HearScratch scratch;
        for (int i = 0; i < 100; ++i) {
            const Pose ears{{place(random), place(random), 1.6}, 0, 0, 0};
            model.hear(Moment(ears, {}), near, scratch);
            std::vector<std::uint32_t> heardNear;
            std::vector<std::uint32_t> heardAll;
            for (const Heard& h : near) {
                if (h.audible) {
                    heardNear.push_back(h.index);
                }
            }
            for (const Heard& h : model.hearAll(ears, {})) {
                if (h.audible) {
                    heardAll.push_back(h.index);
                }
            }
            QCOMPARE(heardNear, heardAll);
        }
    }

    void timeDecidesWhatSounds()
    {
        Emitter late = fixture::pointAt("late", {0, 1, 0});
        late.startAfter_s = 10.0;
        late.pitch_st = 12.0; // twice as fast: over after half its length
        const auto project = std::make_shared<const Project>(fixture::projectWith({late}, false));
        const HearingModel model(project, {"level"}, [](auto&&...) { return 4.0; });
        const Pose ears;
        QVERIFY(!model.hearOne(ears, TimeSpan::at(9.9), 0).audible);
        QVERIFY(model.hearOne(ears, TimeSpan::at(10.0), 0).audible);
        QVERIFY(model.hearOne(ears, TimeSpan::at(11.9), 0).audible);
        QVERIFY(!model.hearOne(ears, TimeSpan::at(12.0), 0).audible);
        QVERIFY(model.hearOne(ears, {}, 0).audible);
    }

    void insideTheNearRangeASoundOpensUp()
    {
        const auto project = std::make_shared<const Project>(fixture::projectWith({fixture::pointAt("a", {0, 0, 0})}));
        const HearingModel model(project, {"level"});
        double before = -1.0;
        // Walking past on the left side of it, 1 cm a step: the sideways part never jumps, though azimuth flips by 180.
        for (double x = -1.0; x <= 1.0; x += 0.01) {
            const double side = model.hearOne({{-x, 1e-6, 0}, 0, 0, 0}, {}, 0).direction.x;
            QVERIFY(x == -1.0 || std::abs(side - before) <= 0.01 / Placement{}.nearRange_m + 1e-9);
            before = side;
        }
        QVERIFY(before > 0.99);
    }

    void walksAreContinuous()
    {
        Walk walk;
        walk.points = {{0, {0, 0, 0}, {}, 0},
                       {4, {0, 8, 0}, {}, 0},
                       {5, {0, 8, 0}, {}, 0},
                       {9, {8, 8, 0}, {}, 0},
                       {12, {8, 0, 0}, 45.0, 10}};
        Pose before = walkPose(walk, 0.0);
        QCOMPARE(before.heading_deg, 0.0);
        for (double t = 0.001; t < 13.0; t += 0.001) {
            const Pose now = walkPose(walk, t);
            QVERIFY(glm::length(now.at - before.at) < 0.003);
            QVERIFY2(std::abs(wrapDegrees(now.heading_deg - before.heading_deg)) < 0.5, qPrintable(QString::number(t)));
            before = now;
        }
        QVERIFY(std::abs(wrapDegrees(walkPose(walk, 7.0).heading_deg - 90.0)) < 1e-9);
        QVERIFY(std::abs(wrapDegrees(before.heading_deg - 45.0)) < 1e-9);
        QCOMPARE(before.pitch_deg, 10.0);
    }
};

} // namespace tst_hearing

STONE_TEST(tst_hearing, TestHearing)
#include "tst_hearing.moc"
