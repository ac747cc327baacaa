// SPDX-License-Identifier: GPL-3.0-or-later
#include "follow/follower.h"
#include "follow/game_link.h"
#include "follow/told_changes.h"
#include "project/file_error.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/walk_pose.h"

#include <QProcess>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fstream>
#include <numbers>
#include <random>
#include <thread>

namespace tst_follow
{

using namespace stone;

namespace
{

std::vector<std::byte> asBytes(const std::string& text)
{
    std::vector<std::byte> bytes;
    std::transform(text.begin(), text.end(), std::back_inserter(bytes), [](char c) { return static_cast<std::byte>(c); });
    return bytes;
}

std::vector<std::byte> packet(const GameWord& word)
{
    return writeOsc(messageOf(word));
}

GameWord character(const Pose& pose)
{
    return {.kind = GameWord::Kind::character, .pose = pose};
}

/// A yard with a tone ahead, a door, a signal and what they do.
Project yard()
{
    return readProjectText(R"({
      "name": "Yard", "voices": 16,
      "signals": [{"id": "bell", "name": "Bell rings"}],
      "game_values": [{"id": "wind", "name": "Wind", "smoothing_s": 0.0}],
      "sounds": [{"id": "s", "name": "Tone", "file": "tone.wav", "loop": true}, {"id": "t", "name": "Step", "file": "tone.wav"}],
      "falloffs": [{"id": "f", "name": "Near", "lanes": [{"model": "inverse", "reference_m": 1}]}],
      "patterns": [{"id": "tram", "name": "Tram", "sound": "s", "falloff": "f"}],
      "levels": [{"id": "l", "name": "Yard", "character": {"start": [0, 0, 0]},
        "emitters": [
          {"id": "a", "name": "Lamp", "at": [0, 6, 1.6], "sound": "s", "falloff": "f"},
          {"id": "b", "name": "Horn", "at": [3, 0, 1.6], "sound": "s", "starting": {"starts": [{"on": "signal", "signal": "bell"}]}},
          {"id": "c", "name": "Soles", "kind": "steps", "sound": "t"}],
        "openings": [{"id": "d", "name": "Door", "from": [0, 3], "to": [1, 3], "open": 0}]}]})",
                           "yard")
        .project;
}

/// A follower whose clocks are moved by hand, and an engine that asks it.
struct Desk {
    double now_s = 100.0;
    std::shared_ptr<Follower> follower = std::make_shared<Follower>([this] { return now_s; }, [this] { return 1.7e9 + now_s; });
    std::shared_ptr<const Project> project;
    Live live;
    std::vector<float> out;

    explicit Desk(const Project& of, Layout layout = Layout::stereo, int rate = 48'000)
        : project(std::make_shared<const Project>(of)), live(layout, rate)
    {
        follower->setDocument(project, {"l"});
        renew();
        live.setFeet({}, true);
        live.follow(follower);
    }

    void renew()
    {
        const auto heard = withThings(project, {"l"}, follower->things().second);
        live.setScene(fixture::sceneOf(*heard, fixture::toneBuffer(2'400.0, 1.0, 0.25F)));
    }
    void tell(const GameWord& word) { follower->receive(packet(word)); }

    /// Plays on, with time passing at the same pace; returns what sounded.
    std::vector<float> play(
        double seconds, const std::function<void()>& eachPicture = [] {})
    {
        std::vector<float> sounded;
        std::vector<float> block(2 * 256);
        const double step_s = 256.0 / live.rate();
        double picture_s = now_s;
        for (const double end_s = now_s + seconds; now_s < end_s; now_s += step_s) {
            while (picture_s <= now_s) {
                eachPicture();
                picture_s += 1.0 / 60.0;
            }
            live.pump();
            live.render(block.data(), 256);
            sounded.insert(sounded.end(), block.begin(), block.end());
        }
        return sounded;
    }
};

double rmsOf(const std::vector<float>& x, std::size_t channel)
{
    double sum = 0.0;
    for (std::size_t i = channel; i < x.size(); i += 2) {
        sum += static_cast<double>(x[i]) * static_cast<double>(x[i]);
    }
    return 10.0 * std::log10(2.0 * sum / static_cast<double>(x.size()) + 1e-30);
}

std::vector<float> lastOf(const std::vector<float>& x, double share)
{
    return {x.begin() + 2 * static_cast<std::ptrdiff_t>(static_cast<double>(x.size()) / 2.0 * (1.0 - share)), x.end()};
}

} // namespace

/// What a game tells, on its way into what is heard.
class TestFollow : public QObject
{
    Q_OBJECT

private slots:
    void readsTheSpecificationsExamples()
    {
        // From the specification's own section on examples.
        const std::string oscillator("/oscillator/4/frequency\0,f\0\0\x43\xdc\0\0", 32);
        const OscPacket one = readOsc(asBytes(oscillator));
        QCOMPARE(one.messages.size(), 1U);
        QCOMPARE(one.messages[0].address, std::string("/oscillator/4/frequency"));
        QCOMPARE(std::get<double>(one.messages[0].values.at(0)), 440.0);
        QVERIFY(writeOsc({"/oscillator/4/frequency", {440.0}}) == asBytes(oscillator));
        const std::string foo("/foo\0\0\0\0,iisff\0\0\0\0\x03\xe8\xff\xff\xff\xffhello\0\0\0\x3f\x9d\xf3\xb6\x40\xb5\xb2\x2d",
                              40);
        const OscPacket two = readOsc(asBytes(foo));
        QCOMPARE(two.messages.size(), 1U);
        const auto& values = two.messages[0].values;
        QCOMPARE(values.size(), 5U);
        QCOMPARE(std::get<double>(values[0]), 1000.0);
        QCOMPARE(std::get<double>(values[1]), -1.0);
        QCOMPARE(std::get<std::string>(values[2]), std::string("hello"));
        QVERIFY(std::abs(std::get<double>(values[3]) - 1.234) < 1e-6);
        QVERIFY(std::abs(std::get<double>(values[4]) - 5.678) < 1e-6);
    }

    void bundlesKeepTheirTimeAndOrder()
    {
        const std::vector<OscMessage> said{{"/stone/signal", {std::string("Bell rings")}},
                                           {"/stone/value", {std::string("Wind"), 0.5}}};
        const OscPacket read = readOsc(writeOscBundle(said, 1.7e9 + 0.25));
        QCOMPARE(read.unreadable, 0);
        QCOMPARE(read.messages.size(), 2U);
        for (std::size_t i = 0; i < 2; ++i) {
            QCOMPARE(read.messages[i].address, said[i].address);
            QVERIFY(read.messages[i].values == said[i].values);
            QVERIFY(read.messages[i].time_s && std::abs(*read.messages[i].time_s - (1.7e9 + 0.25)) < 1e-6);
        }
        QVERIFY(!readOsc(writeOscBundle(said, {})).messages.at(0).time_s);
    }

    void everyWordIsUnderstoodAsItWasSaid()
    {
        for (int kind = 0; kind <= static_cast<int>(GameWord::Kind::bye); ++kind) {
            GameWord word{.kind = static_cast<GameWord::Kind>(kind),
                          .name = "Tram 4",
                          .of = "Tram",
                          .pose = {{1, 2, 3}, 40, 5, 6},
                          .number = 9.0,
                          .act = Cause::land};
            const OscMessage message = messageOf(word);
            const auto back = gameWordOf(readOsc(writeOsc(message)).messages.at(0));
            QVERIFY2(std::holds_alternative<GameWord>(back), message.address.c_str());
            QVERIFY2(messageOf(std::get<GameWord>(back)) == message, message.address.c_str());
        }
    }

    void whatIsWrongIsSaidInOneLine_data()
    {
        QTest::addColumn<QString>("address");
        QTest::addColumn<int>("numbers");
        QTest::addColumn<QString>("words");
        QTest::newRow("nobody's") << "/other/ears" << 4 << "no address of Stone Echo's";
        QTest::newRow("too few") << "/stone/character" << 3 << "is followed by: x y z heading";
        QTest::newRow("too many") << "/stone/ears" << 7 << "x y z heading pitch roll";
        QTest::newRow("a number for a name") << "/stone/signal" << 1 << "is followed by: NAME";
    }
    void whatIsWrongIsSaidInOneLine()
    {
        QFETCH(QString, address);
        QFETCH(int, numbers);
        QFETCH(QString, words);
        OscMessage message{address.toStdString(), std::vector<OscValue>(static_cast<std::size_t>(numbers), 1.0)};
        const auto wrong = gameWordOf(message);
        QVERIFY(std::holds_alternative<std::string>(wrong));
        QVERIFY2(std::get<std::string>(wrong).find(words.toStdString()) != std::string::npos,
                 std::get<std::string>(wrong).c_str());
        const double odd[] = {NAN, INFINITY, 1e9};
        for (const double value : odd) {
            QVERIFY(std::holds_alternative<std::string>(gameWordOf({"/stone/character", {value, 0.0, 0.0, 0.0}})));
        }
    }

    /// Late, early, lost, in another order: what is played is the way that was gone, 80 ms later, without steps.
    void aWayIsSmoothWhateverTheNetworkDoes()
    {
        std::mt19937 chance(7);
        const auto way = [](double t) { return Vec3{3.0 * std::cos(0.7 * t), 3.0 * std::sin(0.7 * t), 0.1 * t}; };
        struct Sent {
            double arrives_s;
            double at_s;
        };
        std::vector<Sent> sent;
        for (int i = 0; i < 60 * 20; ++i) {
            const double at_s = i / 60.0;
            const double delay_s = std::uniform_real_distribution(0.0, 0.05)(chance); // up to three pictures: out of order
            if (std::uniform_real_distribution(0.0, 1.0)(chance) > 0.05) {
                sent.push_back({at_s + delay_s, at_s});
            }
        }
        std::sort(sent.begin(), sent.end(), [](const Sent& a, const Sent& b) { return a.arrives_s < b.arrives_s; });
        ToldTrack track;
        std::size_t next = 0;
        double worst_m = 0.0;
        double fastest_m_s = 0.0;
        std::optional<Vec3> before;
        const double step_s = 256.0 / 48'000.0;
        for (double now_s = 0.0; now_s < 20.0; now_s += step_s) {
            for (; next < sent.size() && sent[next].arrives_s <= now_s; ++next) {
                track.add(sent[next].at_s, {way(sent[next].at_s)});
            }
            const double played_s = now_s - Follower::behind_s;
            if (const auto where = track.at(played_s); where && played_s > 0.1) {
                worst_m = std::max(worst_m, glm::length(where->pose.at - way(played_s)));
                if (before) {
                    fastest_m_s = std::max(fastest_m_s, glm::length(where->pose.at - *before) / step_s);
                    QVERIFY(!where->leapt);
                }
                before = where->pose.at;
            }
        }
        // The circle is gone at 2.1 m/s; its chords over two pictures are a millimetre off.
        QVERIFY2(worst_m < 0.005, qPrintable(QString::number(worst_m)));
        QVERIFY2(fastest_m_s < 2.3, qPrintable(QString::number(fastest_m_s)));
    }

    /// Nothing comes for half a second, then it is elsewhere: on for 80 ms, standing, and there within a tenth, in no step.
    void aGapIsMadeUpForWithoutAStep()
    {
        ToldTrack track;
        const double step_s = 256.0 / 48'000.0;
        double longest_m = 0.0;
        std::optional<Vec3> before;
        Vec3 stood{0.0};
        for (double now_s = 0.0; now_s < 2.0; now_s += step_s) {
            const bool gap = now_s > 0.8 && now_s < 1.3;
            if (!gap) {
                track.add(now_s, {Vec3{2.0 * now_s, 0.0, 0.0}});
            }
            const auto where = track.at(now_s);
            if (before && where) {
                longest_m = std::max(longest_m, glm::length(where->pose.at - *before));
                QVERIFY(!where->leapt);
            }
            before = where ? std::optional(where->pose.at) : std::nullopt;
            if (now_s < 1.29) {
                stood = *before;
            }
        }
        QVERIFY2(std::abs(stood.x - 2.0 * (0.8 + ToldTrack::onwards_s)) < 0.03, qPrintable(QString::number(stood.x)));
        // A third of what was missed in each 30 ms, on top of its own 2 m/s.
        QVERIFY2(longest_m < (2.6 - stood.x) * (step_s / 0.03) + 2.0 * step_s + 0.01, qPrintable(QString::number(longest_m)));
        QVERIFY(std::abs(before->x - 2.0 * 2.0) < 0.02);
    }

    void aLeapIsALeap()
    {
        ToldTrack track;
        int leaps = 0;
        for (double now_s = 0.0; now_s < 1.0; now_s += 0.005) {
            track.add(now_s, {Vec3{now_s < 0.5 ? 0.0 : 100.0, 0.0, 0.0}});
            const auto where = track.at(now_s);
            QVERIFY(where);
            QVERIFY(where->pose.at.x == 0.0 || where->pose.at.x == 100.0);
            leaps += where->leapt ? 1 : 0;
        }
        QCOMPARE(leaps, 2); // as it appears, and then
    }

    /// The same walk told by a game and rendered 80 ms later: as loud at every moment.
    void aToldWalkSoundsLikeItsRender()
    {
        const auto way = [](double t) { return Pose{{-8.0 + 4.0 * t, 0.0, 0.0}, 0.0}; };
        const Project lamp = withLevel(yard(), {"l"}, [](Level& level) {
            level.emitters.remove({"b"});
            level.emitters.remove({"c"});
        });
        Desk desk(lamp);
        const double began_s = desk.now_s;
        const auto played = desk.play(4.0, [&] { desk.tell(character(way(desk.now_s - began_s))); });
        // What is heard now was decided some steps ago.
        const double ahead_s = static_cast<double>(Live::stepsAhead) * 256.0 / 48'000.0;
        OfflineJob job;
        job.scene = fixture::sceneOf(lamp, fixture::toneBuffer(2'400.0, 1.0, 0.25F));
        job.to_s = 4.0;
        job.feet = [&](double t) { return way(t - Follower::behind_s - ahead_s); };
        const auto rendered = fixture::rendered(job);
        for (double t = 0.5; t < 3.8; t += 0.1) {
            for (const std::size_t side : {0U, 1U}) {
                const double a = fixture::rms_db(played, side, t, t + 0.1);
                const double b = fixture::rms_db(rendered, side, t, t + 0.1);
                QVERIFY2(std::abs(a - b) < 0.05, qPrintable(QString("%1 s: %2 and %3 dB").arg(t).arg(a).arg(b)));
            }
        }
    }

    void aThingThatTheGameMovesIsHeardWhereItIs_data()
    {
        QTest::addColumn<int>("layout");
        QTest::addColumn<int>("rate");
        for (const int rate : {44'100, 48'000}) {
            QTest::addRow("stereo %d", rate) << static_cast<int>(Layout::stereo) << rate;
            QTest::addRow("headphones %d", rate) << static_cast<int>(Layout::binaural) << rate;
        }
    }
    void aThingThatTheGameMovesIsHeardWhereItIs()
    {
        QFETCH(int, layout);
        QFETCH(int, rate);
        Desk desk(yard(), static_cast<Layout>(layout), rate);
        desk.tell(character({}));
        const auto at = [&](const Vec3& place) {
            desk.tell({.kind = GameWord::Kind::thing, .name = "Lamp", .pose = {place}});
            desk.renew();
            return lastOf(desk.play(0.6), 0.4);
        };
        const auto right = at({5.0, 0.1, 1.6});
        const auto left = at({-5.0, 0.1, 1.6});
        QVERIFY2(rmsOf(right, 1) - rmsOf(right, 0) > 6.0, qPrintable(QString::number(rmsOf(right, 1) - rmsOf(right, 0))));
        QVERIFY(rmsOf(left, 0) - rmsOf(left, 1) > 6.0);
        // Twice as far: 6 dB less, by the inverse model.
        const auto further = at({-10.0, 0.2, 1.6});
        QVERIFY(std::abs(rmsOf(left, 0) - rmsOf(further, 0) - 6.02) < 0.2);
        QCOMPARE(desk.project->levels[0]->emitters[0]->at, (Vec3{0, 6, 1.6}));
    }

    void thingsAppearByPatternAndGo()
    {
        Desk desk(yard());
        desk.tell(character({}));
        const double alone = rmsOf(lastOf(desk.play(0.5), 0.3), 1);
        desk.tell({.kind = GameWord::Kind::appear, .name = "Tram 4", .of = "Tram", .pose = {{2.0, 0.0, 1.6}}});
        QCOMPARE(desk.follower->things().second.appeared.size(), 1U);
        desk.renew();
        const double with = rmsOf(lastOf(desk.play(0.5), 0.3), 1);
        QVERIFY2(with > alone + 6.0, qPrintable(QString("%1 %2").arg(alone).arg(with)));
        desk.tell({.kind = GameWord::Kind::gone, .name = "Tram 4"});
        desk.renew();
        QVERIFY(std::abs(rmsOf(lastOf(desk.play(0.5), 0.3), 1) - alone) < 0.1);
        desk.tell({.kind = GameWord::Kind::appear, .name = "Bus", .of = "Omnibus"});
        desk.tell({.kind = GameWord::Kind::thing, .name = "Nobody"});
        const auto unknown = desk.follower->report().unknown;
        QCOMPARE(unknown.size(), 2U);
        QCOMPARE(unknown.at({"pattern", "Omnibus"}), 1U);
        QCOMPARE(unknown.at({"thing", "Nobody"}), 1U);
    }

    void whatHappensInTheGameHappensHere()
    {
        Desk desk(yard());
        desk.tell(character({}));
        desk.play(0.2);
        const auto state = [&] { return *desk.live.snapshot().world; };
        QVERIFY(state().starts.empty());
        desk.tell({.kind = GameWord::Kind::signal, .name = "Bell rings"});
        desk.tell({.kind = GameWord::Kind::value, .name = "Wind", .number = 0.75});
        desk.tell({.kind = GameWord::Kind::opening, .name = "Door", .number = 0.5});
        desk.play(0.3);
        QCOMPARE(state().starts.size(), 1U);
        QCOMPARE(state().starts[0].emitter, 1U);
        QCOMPARE(state().values.at(0).at(state().time_s), 0.75);
        const World& world = *desk.live.snapshot().worldOf;
        const WorldState now = state();
        Moment moment;
        moment.state = &now;
        moment.when = TimeSpan::at(now.time_s);
        QCOMPARE(world.openShare(moment, 0), 0.5);
        QVERIFY(!now.stepsTold);
        desk.tell({.kind = GameWord::Kind::step, .name = "iron"});
        desk.tell({.kind = GameWord::Kind::act, .act = Cause::jump});
        desk.play(0.2);
        QVERIFY(state().stepsTold && state().actsTold);
        QCOMPARE(state().steps, 1U);
        // From then on walking makes no steps of its own.
        const double began_s = desk.now_s;
        desk.play(2.0, [&] { desk.tell(character({{0.0, 2.0 * (desk.now_s - began_s), 0.0}})); });
        QCOMPARE(state().steps, 1U);
    }

    void earsAndCameraAreTold()
    {
        Desk desk(yard());
        desk.tell(character({}));
        desk.tell({.kind = GameWord::Kind::ears, .pose = {{0, 6, 1.6}, 90.0}});
        desk.play(0.3);
        QCOMPARE(desk.live.snapshot().hearing->ears.at, (Vec3{0, 6, static_cast<double>(1.6F)}));
        QCOMPARE(desk.live.snapshot().hearing->ears.heading_deg, 90.0);
        QCOMPARE(desk.live.snapshot().feet.at, Vec3{0.0});
        Desk other(yard());
        other.tell(character({}));
        other.tell({.kind = GameWord::Kind::camera, .pose = {{0, -9, 4}, 0.0, -20.0}});
        other.play(0.3);
        QCOMPARE(other.live.snapshot().world->stance.camera.at, (Vec3{0, -9, 4}));
        QCOMPARE(other.live.snapshot().world->stance.ears.at, other.live.snapshot().world->stance.head.at);
    }

    /// A time tag says when: what it is of is played then, however early it comes; one that is far off is not believed.
    void timeTagsAreHonouredWithinASecond()
    {
        Desk desk(yard());
        desk.tell(character({}));
        desk.play(0.2);
        const auto say = [&](double in_s) {
            const std::vector<OscMessage> one{messageOf({.kind = GameWord::Kind::signal, .name = "Bell rings"})};
            desk.follower->receive(writeOscBundle(one, 1.7e9 + desk.now_s + in_s));
        };
        say(0.5);
        desk.play(0.5);
        QVERIFY(desk.live.snapshot().world->starts.empty());
        desk.play(0.12);
        QCOMPARE(desk.live.snapshot().world->starts.size(), 1U);
        const double began_s = desk.live.snapshot().world->starts[0].began_s;
        say(500.0);
        desk.play(0.2);
        QVERIFY(desk.live.snapshot().world->starts.back().began_s > began_s);
    }

    /// Garbage of all kinds: none of it ends the program, changes the project, or is kept without bounds.
    void aMillionDamagedPacketsDoNoHarm()
    {
        Desk desk(yard());
        std::mt19937 chance(3);
        std::vector<std::vector<std::byte>> good;
        for (int kind = 0; kind <= static_cast<int>(GameWord::Kind::bye); ++kind) {
            good.push_back(packet({.kind = static_cast<GameWord::Kind>(kind),
                                   .name = kind % 2 == 0 ? "Lamp" : "Bell rings",
                                   .of = "Tram",
                                   .pose = {{1, 2, 3}, 40, 5, 6},
                                   .number = 0.5}));
            std::vector<OscMessage> said(3, readOsc(good.back()).messages.at(0));
            good.push_back(writeOscBundle(said, 1.7e9 + 100.0));
        }
        const Project before = *desk.project;
        const auto below = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(chance); };
        for (int i = 0; i < 1'000'000; ++i) {
            std::vector<std::byte> bytes = good[below(good.size())];
            const std::size_t hurts = below(4);
            for (std::size_t k = 0; k < hurts && !bytes.empty(); ++k) {
                switch (below(4)) {
                case 0: bytes[below(bytes.size())] = static_cast<std::byte>(below(256)); break;
                case 1: bytes.resize(below(bytes.size() + 1)); break;
                case 2: bytes.insert(bytes.begin() + static_cast<std::ptrdiff_t>(below(bytes.size() + 1)), std::byte{0}); break;
                default: bytes[below(bytes.size())] ^= static_cast<std::byte>(1U << below(8)); break;
                }
            }
            desk.follower->receive(bytes);
            if (i % 50'000 == 0) {
                desk.renew();
                desk.play(0.02);
            }
        }
        const Follower::Report report = desk.follower->report();
        QCOMPARE(report.packets, 1'000'000U);
        QVERIFY(report.misunderstood > 100'000);
        QVERIFY(report.messages > 300'000);
        QVERIFY(report.unknown.size() <= Follower::mostUnknown);
        QVERIFY(report.things <= Follower::mostThings);
        QVERIFY(*desk.project == before);
        for (const float sample : desk.play(0.1)) {
            QVERIFY(std::isfinite(sample));
        }
    }

    void tooMuchIsBounded()
    {
        Desk desk(yard());
        for (std::size_t i = 0; i < 3 * Follower::mostThings; ++i) {
            desk.tell({.kind = GameWord::Kind::appear, .name = "t" + std::to_string(i), .of = "Tram"});
        }
        for (std::size_t i = 0; i < 2 * Follower::mostWaiting; ++i) {
            desk.tell({.kind = GameWord::Kind::signal, .name = "Bell rings"});
        }
        QCOMPARE(desk.follower->report().things, Follower::mostThings);
        QCOMPARE(desk.follower->things().second.appeared.size(), Follower::mostThings);
        QCOMPARE(desk.follower->report().lost, 2 * Follower::mostThings + Follower::mostWaiting);
    }

    void changesAreToldUnderTheSchemasNames()
    {
        const Project before = yard();
        Project now = withLevel(before, {"l"}, [](Level& level) {
            Emitter lamp = *level.emitters[0];
            lamp.level_db = -6.0;
            lamp.placement.spread_deg = 40.0;
            lamp.at = {1, 2, 3};
            level.emitters.put(lamp);
        });
        Falloff near = *now.falloffs[0];
        near.lanes[0].formula.reference_m = 2.5;
        near.lanes.push_back(
            {LaneProperty::lowPass, LaneInput::distance, {}, true, LaneShape::curve, {}, {}, {{1, 20'000}, {9, 900}}, {}});
        now.falloffs.put(near);
        const auto said = changesTold(before, now, {"l"});
        const auto told = [&](const OscMessage& one) { return std::find(said.begin(), said.end(), one) != said.end(); };
        using Words = std::string;
        QVERIFY(told({"/stone/emitter", {Words("Lamp"), Words("level_db"), -6.0}}));
        QVERIFY(told({"/stone/emitter", {Words("Lamp"), Words("placement.spread_deg"), 40.0}}));
        QVERIFY(told({"/stone/emitter", {Words("Lamp"), Words("at"), 1.0, 2.0, 3.0}}));
        QVERIFY(told({"/stone/falloff", {Words("Near"), Words("level.reference_m"), 2.5}}));
        QVERIFY(told({"/stone/lane", {Words("Near"), Words("low_pass"), 1.0, 20'000.0, 9.0, 900.0}}));
        QCOMPARE(std::count_if(said.begin(), said.end(), [](const OscMessage& m) { return m.address == "/stone/emitter"; }), 3);
        QVERIFY(changesTold(before, before, {"l"}).empty());
        // Back again: what the schema says is told without a value, what is always written with it.
        const auto back = changesTold(now, before, {"l"});
        QVERIFY(std::find(back.begin(), back.end(),
                          OscMessage{"/stone/emitter", {Words("Lamp"), Words("placement.spread_deg")}}) != back.end());
        QVERIFY(std::find(back.begin(), back.end(), OscMessage{"/stone/lane", {Words("Near"), Words("low_pass")}}) !=
                back.end());
    }

    void overARealPort()
    {
        const auto follower = std::make_shared<Follower>();
        follower->setDocument(std::make_shared<const Project>(yard()), {"l"});
        GameLink link(follower, 0, false);
        QVERIFY(link.port() > 0);
        // Bound to this machine alone.
        std::ifstream table("/proc/net/udp");
        const std::string all((std::istreambuf_iterator<char>(table)), {});
        const std::string own = QString("0100007F:%1").arg(link.port(), 4, 16, QChar('0')).toUpper().toStdString();
        QVERIFY2(all.find(own) != std::string::npos, own.c_str());
        GameSender game("127.0.0.1", link.port());
        game.send(packet({.kind = GameWord::Kind::hello, .number = static_cast<double>(game.ownPort())}));
        game.send(asBytes("not at all OSC"));
        QTRY_COMPARE(link.games().size(), 1U);
        QTRY_COMPARE(follower->report().misunderstood, 1U);
        const std::vector<OscMessage> change{OscMessage{"/stone/changed", {4.0}}};
        link.tell(change);
        std::vector<std::byte> answer;
        // It is asked once more than it says so.
        QTRY_VERIFY([&] {
            answer = answer.empty() ? game.receive() : answer;
            return !answer.empty();
        }());
        QCOMPARE(readOsc(answer).messages.at(0).address, std::string("/stone/changed"));
        try {
            GameLink twice(follower, link.port(), false);
            QFAIL("a port was had twice");
        } catch (const FileError& error) {
            QVERIFY(std::string(error.what()).find("port " + std::to_string(link.port())) == 0);
            QVERIFY(std::string(error.what()).find("choose another one") != std::string::npos);
        }
        // Another game on the same machine comes and goes: the first one stays.
        {
            GameSender other("127.0.0.1", link.port());
            other.send(packet({.kind = GameWord::Kind::hello, .number = static_cast<double>(other.ownPort())}));
            QTRY_COMPARE(link.games().size(), 2U);
            other.send(packet({.kind = GameWord::Kind::bye}));
            QTRY_COMPARE(link.games().size(), 1U);
            QVERIFY(link.games()[0].ends_with(std::to_string(game.ownPort())));
        }
        game.send(packet({.kind = GameWord::Kind::bye}));
        QTRY_VERIFY(link.games().empty());
    }

    /// Many messages are told in packets that a network carries whole.
    void muchIsToldInSmallPackets()
    {
        const auto follower = std::make_shared<Follower>();
        GameLink link(follower, 0, false);
        GameSender game("127.0.0.1", link.port());
        game.send(packet({.kind = GameWord::Kind::hello, .number = static_cast<double>(game.ownPort())}));
        QTRY_COMPARE(link.games().size(), 1U);
        std::vector<OscMessage> many;
        for (int i = 0; i < 200; ++i) {
            many.push_back({"/stone/heard", {"Emitter number " + std::to_string(i), -12.0}});
        }
        link.tell(many);
        std::size_t got = 0;
        QTRY_VERIFY([&] {
            for (auto bytes = game.receive(); !bytes.empty(); bytes = game.receive()) {
                if (bytes.size() > 1472) {
                    return false;
                }
                got += readOsc(bytes).messages.size();
            }
            return got == many.size();
        }());
    }

    /// The command, as a game meets it: the file it writes is not silent, and louder at the side where the sound is passed.
    void theCommandFollows()
    {
        QTemporaryDir folder;
        const std::filesystem::path at = folder.path().toStdString();
        fixture::writeTone(at / "tone.wav", 480.0, 1.0);
        fixture::writeText(at / "project.json",
                           R"({"name": "Yard", "sounds": [{"id": "s", "name": "Tone", "file": "tone.wav", "loop": true}],
          "levels": [{"id": "l", "name": "Yard", "emitters": [{"id": "a", "name": "Lamp", "at": [4, 0, 1.6], "sound": "s"}]}]})");
        QProcess process;
        process.start(CLI, {"follow", folder.path(), "--port", "0", "--output", "none", "--seconds", "2.5", "--out",
                            folder.filePath("out.wav"), "--take", folder.filePath("out.take")});
        QVERIFY(process.waitForReadyRead(10'000));
        const QString line = process.readLine();
        const int port = line.section(' ', 4, 4).remove(',').toInt();
        QVERIFY2(port > 0, qPrintable(line));
        GameSender game("127.0.0.1", port);
        const auto start = std::chrono::steady_clock::now();
        while (process.state() == QProcess::Running && std::chrono::steady_clock::now() - start < std::chrono::seconds(10)) {
            game.send(packet(character({})));
            game.send(packet({.kind = GameWord::Kind::signal, .name = "Nobody's"}));
            process.waitForFinished(16);
        }
        QCOMPARE(process.exitCode(), 0);
        const QString said = process.readAllStandardError();
        QVERIFY2(said.contains("no signal is called \"Nobody's\""), qPrintable(said));
        SoundBank bank(48'000);
        const auto buffer = bank.load(at / "out.wav", false, Keeping::decoded).buffer;
        QVERIFY(buffer);
        QVERIFY(QFile::exists(folder.filePath("out.take")));
        QVERIFY(buffer->frames() > 96'000);
    }
};

} // namespace tst_follow

STONE_TEST(tst_follow, TestFollow)
#include "tst_follow.moc"
