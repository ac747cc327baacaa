// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file_error.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/taken.h"
#include "takes/take_layers.h"
#include "takes/take_player.h"
#include "takes/take_walk.h"
#include "world/walk_pose.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>

namespace tst_take_playing
{

using namespace stone;
using namespace fixture;

/// A take heard again, alone and beside another; walked again; laid out over its time.
class TestTakePlaying : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) { return folder_.filePath(name).toStdString(); }

    /// What a device would get, whole blocks of its own size.
    static std::vector<float> played(TakePlayer& player, double seconds, std::size_t block = 192)
    {
        std::vector<float> out;
        std::vector<float> some(block * player.channels());
        for (double t = 0.0; t < seconds; t += static_cast<double>(block) / player.rate()) {
            player.pump();
            player.render(some.data(), block);
            out.insert(out.end(), some.begin(), some.end());
        }
        return out;
    }

    /// A lamp that one walks past, softer by so much.
    Project lampYard(double level_db) const
    {
        return withEmitter(takenYard(), {"level"}, {"lamp"}, [level_db](Emitter& e) { e.level_db = level_db; });
    }

private slots:
    /// From any time on, to the sample, after five milliseconds of fading in.
    void itIsHeardAsItWas()
    {
        const Recorded recorded = record(takenYard(), file("one.take"));
        TakePlayer player(file("one.take"));
        QCOMPARE(player.rate(), 48'000);
        QCOMPARE(player.channels(), std::size_t(2));
        for (const double from_s : {0.0, 2.5, 6.01}) {
            TakePlayer again(file("one.take"));
            again.seek(from_s);
            const std::vector<float> out = played(again, 0.7);
            const auto first = static_cast<std::size_t>(std::llround(from_s * 48'000.0)) * 2;
            double worst = 0.0;
            for (std::size_t i = 512; i < out.size(); ++i) {
                worst = std::max(worst, std::abs(static_cast<double>(out[i]) - static_cast<double>(recorded.sound[first + i])));
            }
            QVERIFY2(worst < 1.5e-7, qPrintable(QString::number(worst))); // 24 bits
            QVERIFY(std::abs(again.position_s() - from_s - 0.7) < 0.006);
        }
    }

    /// Where it jumps to another time there is no click; where it ends there is silence, and that is known.
    void jumpsAndEnds()
    {
        const Recorded recorded = record(takenYard(), file("one.take"));
        TakePlayer player(file("one.take"));
        player.seek(1.0);
        played(player, 0.5);
        player.seek(5.0);
        const std::vector<float> across = played(player, 0.4);
        QVERIFY(std::abs(player.position_s() - 5.4) < 0.08);
        QVERIFY(largestBreak(across, 0) < 1.5 * largestBreak(recorded.sound, 0) + 1e-5);
        player.seek(7.9);
        played(player, 0.4);
        QVERIFY(player.over());
        const std::vector<float> after = played(player, 0.1);
        QVERIFY(std::all_of(after.begin(), after.end(), [](float x) { return x == 0.0F; }));
        player.seek(1.0);
        QVERIFY(!player.over());
        QVERIFY(energy_db(played(player, 0.5), 0.2, 0.4) > -60.0);
    }

    /// Two takes in step: at the same moment, whichever is heard, and no click from one to the other.
    void theOtherIsHeardAtTheSameMoment()
    {
        const Recorded loud = record(lampYard(0.0), file("loud.take"));
        const Recorded soft = record(lampYard(-12.0), file("soft.take"));
        TakePlayer player(file("loud.take"));
        const auto same = [](double t_s) { return t_s; };
        player.joinOther(file("soft.take"), same, same);
        player.seek(1.0);
        std::vector<float> out = played(player, 0.5);
        player.hearOther(true);
        const std::vector<float> other = played(player, 0.5);
        out.insert(out.end(), other.begin(), other.end());
        player.hearOther(false);
        const std::vector<float> back = played(player, 0.5);
        out.insert(out.end(), back.begin(), back.end());
        const auto worstAgainst = [&](const std::vector<float>& sound, double from_s, double to_s) {
            double worst = 0.0;
            for (auto i = static_cast<std::size_t>(from_s * 96'000.0); i < static_cast<std::size_t>(to_s * 96'000.0); ++i) {
                worst = std::max(worst, std::abs(static_cast<double>(out[i] - sound[96'000 + i])));
            }
            return worst;
        };
        QVERIFY2(worstAgainst(loud.sound, 0.1, 0.5) < 1.5e-7, qPrintable(QString::number(worstAgainst(loud.sound, 0.1, 0.5))));
        QVERIFY(worstAgainst(soft.sound, 0.62, 1.0) < 1.5e-7);
        QVERIFY(worstAgainst(loud.sound, 1.12, 1.5) < 1.5e-7);
        QVERIFY(worstAgainst(loud.sound, 0.62, 1.0) > 0.01); // they do differ
        QVERIFY(largestBreak(out, 0) < 1.5 * largestBreak(loud.sound, 0) + 1e-5);
        QVERIFY(std::abs(player.position_s() - 2.5) < 0.01);
    }

    /// Aligned by the way, the other goes on from its own place, and the position is told in the first one's time.
    void anotherPaceIsFollowed()
    {
        record(takenYard(), file("one.take"));
        record(lampYard(-6.0), file("two.take"));
        TakePlayer player(file("one.take"));
        player.joinOther(
            file("two.take"), [](double t_s) { return t_s / 2.0; }, [](double t_s) { return t_s * 2.0; });
        player.seek(4.0);
        player.hearOther(true);
        played(player, 0.5);
        QVERIFY(std::abs(player.position_s() - 5.0) < 0.02);
        player.hearOther(false);
        played(player, 0.2);
        QVERIFY2(std::abs(player.position_s() - 5.2) < 0.15, qPrintable(QString::number(player.position_s())));
    }

    void whatCannotBePlayedSaysWhy()
    {
        record(takenYard(), file("mute.take"), false);
        record(takenYard(), file("one.take"));
        const auto problem = [](auto&& what) {
            try {
                what();
            } catch (const FileError& error) {
                return std::string(error.what());
            }
            return std::string();
        };
        QVERIFY(problem([&] { TakePlayer player(file("mute.take")); }).find("no sound was kept") != std::string::npos);
        TakePlayer player(file("one.take"));
        const auto same = [](double t_s) { return t_s; };
        QVERIFY(problem([&] { player.joinOther(file("mute.take"), same, same); }).find("no sound was kept") !=
                std::string::npos);
        {
            TakeInfo info = infoOf(takenYard());
            info.rate = 44'100;
            TakeRecorder recorder(file("slow.take"), info, true, true);
            recorder.sound(0.0, std::vector<float>(8'820, 0.1F));
            recorder.finish();
        }
        const std::string why = problem([&] { player.joinOther(file("slow.take"), same, same); });
        QVERIFY2(why.find("44100 Hz") != std::string::npos && why.find("48000 Hz") != std::string::npos, why.c_str());
        QVERIFY(!player.hasOther());
        player.hearOther(true); // asks for what is not there
        player.seek(1.0);
        QVERIFY(energy_db(played(player, 0.4), 0.2, 0.4) > -60.0);
    }

    /// The walk of a take goes the same way again, to a centimetre, with what happened on it.
    void aTakeIsWalkedAgain()
    {
        const Project project = takenYard();
        record(project, file("one.take"), false);
        const Take take(file("one.take"));
        const Walk walk = walkOf(take, project);
        QVERIFY(walk.points.size() >= 2 && walk.points.size() < 8);
        double off_m = 0.0;
        double off_deg = 0.0;
        take.eachMoment([&](const TakenMoment& moment) {
            const Pose there = walkPose(walk, moment.t_s);
            off_m = std::max(off_m, glm::length(there.at - moment.feet.at));
            off_deg = std::max(off_deg, std::abs(there.heading_deg - moment.feet.heading_deg));
            return true;
        });
        QVERIFY2(off_m < 0.01 && off_deg < 0.6, qPrintable(QString("%1 m, %2 degrees").arg(off_m).arg(off_deg)));
        QCOMPARE(walk.events.size(), std::size_t(2));
        QVERIFY(walk.events[0].kind == WalkEvent::Kind::signal && walk.events[0].signal == SignalId{"gust"});
        QVERIFY(std::abs(walk.events[0].t_s - 2.0) < 0.01);
        QVERIFY(walk.events[1].kind == WalkEvent::Kind::value && walk.events[1].value == GameValueId{"wind"});
        QVERIFY(walk.events[1].number == 1.0 && std::abs(walk.events[1].t_s - 4.0) < 0.01);
        // Of a project that has neither signal nor value only the way is left.
        QVERIFY(walkOf(take, projectWith({pointAt("lamp", {0, 0, 0})})).events.empty());
        Made made(file("short.take"));
        made.add(0.0, {heardAt(0, -20.0)});
        made.finish();
        QVERIFY(walkOf(Take(file("short.take")), project).points.empty());
    }

    /// Layers at every grain: never less than the loudest in it, by emitter, family and room.
    void layersAtEveryGrain()
    {
        Made made(file("layers.take"), {"lamp", "fan"});
        made.writer().addRoom("hall", "Hall");
        std::vector<TakeBin> bins;
        for (int i = 0; i < 1'000; ++i) {
            TakeBin bin;
            bin.t_s = i * takeBin_s;
            bin.voices = static_cast<std::uint32_t>(i % 7);
            // One short peak among much that is soft.
            bin.emitters = {{0, i == 613 ? -10.0F : -50.0F, -10.0F}, {1, -40.0F, -40.0F}};
            bins.push_back(bin);
        }
        made.writer().addBins(0.0, bins);
        for (int i = 0; i < 10'000; ++i) {
            made.add(i * takeStep_s, {heardAt(0, -50.0)});
        }
        made.finish();
        const Take take(file("layers.take"));
        const TakeLayers layers(take, TakeLayers::By::emitters);
        QCOMPARE(layers.stretches(), std::size_t(1'000));
        QCOMPARE(layers.layers().size(), std::size_t(2));
        const std::size_t lamp = layers.layers()[0].name == "lamp" ? 0 : 1;
        const float peak = TakeLayers::thickness(-10.0F);
        for (const double span_s : {0.9, 3.0, 40.0, 300.0, 499.0}) {
            const double from_s = std::max(306.6 - span_s / 2.0, 0.0);
            QCOMPARE(layers.thick(lamp, from_s, std::min(from_s + span_s, 500.0)), peak);
        }
        // Away from it nothing of it is seen, but for what lies in the same cell.
        QCOMPARE(layers.thick(lamp, 100.0, 110.0), TakeLayers::thickness(-50.0F));
        QVERIFY(layers.thick(lamp, 306.70, 306.71) > 0.5F * peak);
        const std::vector<std::size_t> both{0, 1};
        const auto edges = layers.stacked(both, std::vector<double>{-10.0, -5.0, 0.0, 250.0, 500.0, 600.0});
        QVERIFY(edges[1][0] == 0.0F && edges[1][1] > 0.0F); // the column that reaches 0 is drawn
        QVERIFY(edges[1][2] < edges[1][3] && edges[1][3] >= peak);
        QVERIFY(layers.thickest(both) >= static_cast<double>(peak + TakeLayers::thickness(-40.0F)) - 1e-6);
        QVERIFY(layers.thickest({}) > 0.0);
        const TakeLayers rooms(take, TakeLayers::By::rooms);
        QVERIFY(rooms.layers().size() == 1 && rooms.layers()[0].name == "Hall" && rooms.layers()[0].loudness == 0.0);
        const TakeLayers families(take, TakeLayers::By::families);
        QVERIFY(families.layers().size() == 1 && families.layers()[0].name.empty());
    }

    /// Rooms' layers are what their reverb was at the ears.
    void roomsAreLayers()
    {
        Made made(file("rooms.take"));
        made.writer().addRoom("hall", "Hall");
        std::vector<TakeBin> bins(20);
        for (std::size_t i = 0; i < bins.size(); ++i) {
            bins[i].t_s = static_cast<double>(i) * takeBin_s;
        }
        made.writer().addBins(0.0, bins);
        for (int i = 0; i < 200; ++i) {
            made.addWithRooms(i * takeStep_s, {heardAt(0, -20.0)}, {{0, i < 100 ? -30.0 : -12.0}});
        }
        made.finish();
        const TakeLayers rooms(Take(file("rooms.take")), TakeLayers::By::rooms);
        QCOMPARE(rooms.layers().size(), std::size_t(1));
        QVERIFY(std::abs(rooms.layers()[0].level_db[2] + 30.0F) < 0.01F);
        QVERIFY(std::abs(rooms.layers()[0].level_db[15] + 12.0F) < 0.01F);
    }
};

} // namespace tst_take_playing

STONE_TEST(tst_take_playing, TestTakePlaying)
#include "tst_take_playing.moc"
