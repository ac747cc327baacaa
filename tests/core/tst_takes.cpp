// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file_error.h"
#include "project/write.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/taken.h"
#include "takes/moment_codec.h"
#include "takes/take_compare.h"
#include "takes/take_findings.h"
#include "takes/take_page.h"
#include "takes/take_recorder.h"
#include "takes/take_series.h"
#include "takes/take_writer.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>
#include <filesystem>
#include <random>

namespace tst_takes
{

using namespace stone;
using namespace fixture;

namespace
{

constexpr double never = -std::numeric_limits<double>::infinity();

/// To a hundredth, as takes have it; both nothing, or near.
bool near(double a, double b, double within = 0.0051)
{
    return a == b || std::abs(a - b) <= within;
}

bool near(const Vec3& a, const Vec3& b)
{
    return near(a.x, b.x) && near(a.y, b.y) && near(a.z, b.z);
}

/// Moments that go on from each other by chance, with everything that one can have.
std::vector<TakenMoment> randomMoments(unsigned seed, int count)
{
    std::mt19937 random(seed);
    const auto number = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
    const auto below = [&](int n) { return static_cast<int>(random() % static_cast<unsigned>(n)); };
    const auto place = [&] { return Vec3{number(-500, 500), number(-500, 500), number(-20, 20)}; };
    std::vector<TakenMoment> moments;
    std::map<std::uint32_t, TakenCopy> there;
    TakenMoment moment;
    for (int i = 0; i < count; ++i) {
        moment.t_s = i * takeStep_s + number(0, 0.004);
        moment.level_s = moment.t_s + (i > 10 ? 3.0 : 0.0);
        moment.walk_s = below(9) == 0 ? -1.0 : moment.level_s;
        moment.feet = {place(), number(-400, 400), 0, 0};
        moment.ears = {place(), number(-400, 400), number(-60, 60), number(-9, 9)};
        moment.voices = static_cast<std::uint32_t>(below(5000));
        moment.gaveWay = static_cast<std::uint32_t>(below(3));
        moment.momentary_lufs = below(3) == 0 ? never : number(-60, 0);
        moment.integrated_lufs = number(-60, 0);
        moment.shortTerm_lufs = number(-60, 0);
        moment.peak_db = number(-60, 6);
        moment.values = {number(-9, 9), 0.25};
        moment.rooms.clear();
        for (std::uint32_t room = 0; room < 4; ++room) {
            if (below(2) == 0) {
                moment.rooms.push_back({room, number(-80, 0)});
            }
        }
        moment.copies.clear();
        for (std::uint32_t copy = 0; copy < 40; ++copy) {
            if (below(3) == 0) {
                there.erase(copy);
            }
            if (below(2) == 0) {
                continue;
            }
            TakenCopy& now = there[copy];
            now.copy = copy * 7;
            now.audible = below(4) != 0;
            if (below(2) == 0) {
                now.terms = Terms();
                for (int line = below(9); line >= 0; --line) {
                    now.terms.add(static_cast<TermKind>(below(static_cast<int>(termKinds))),
                                  below(9) == 0 ? never : number(-80, 9));
                }
            }
            now.level_db = below(9) == 0 ? never : now.terms.total();
            if (below(3) == 0) {
                now.at = place();
            }
            now.direction = {number(-1, 1), number(-1, 1), number(-1, 1)};
            now.gaveWay.reset();
            if (!now.audible) {
                now.gaveWay = GaveWay{static_cast<Crowd>(below(3)),
                                      static_cast<GivesWay>(below(4)),
                                      below(20),
                                      static_cast<std::uint32_t>(below(200)),
                                      std::round(number(0, 99)),
                                      below(2) == 0,
                                      below(2) == 0,
                                      std::round(number(-90, 0))};
            }
            moment.copies.push_back(now);
        }
        moments.push_back(moment);
    }
    return moments;
}

} // namespace

/// Takes: what is written comes back, as far as a file goes; what a walk was like, against what was heard; two of them.
class TestTakes : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) { return folder_.filePath(name).toStdString(); }

private slots:
    void momentsComeBack()
    {
        for (unsigned seed = 0; seed < 40; ++seed) {
            const auto moments = randomMoments(seed, 60);
            MomentEncoder encoder;
            for (const TakenMoment& moment : moments) {
                encoder.add(moment);
            }
            const std::string chunk = encoder.take();
            const auto back = decodeMoments(chunk);
            QCOMPARE(back.size(), moments.size());
            for (std::size_t i = 0; i < back.size(); ++i) {
                const TakenMoment& a = moments[i];
                const TakenMoment& b = back[i];
                QVERIFY(near(a.t_s, b.t_s, 6e-5) && near(a.level_s, b.level_s, 6e-5) && near(a.walk_s, b.walk_s, 6e-5));
                QVERIFY(near(a.ears.at, b.ears.at) && near(a.feet.at, b.feet.at));
                QVERIFY(std::abs(std::remainder(a.ears.heading_deg - b.ears.heading_deg, 360.0)) < 0.0051);
                QVERIFY(near(a.momentary_lufs, b.momentary_lufs) && near(a.peak_db, b.peak_db));
                QVERIFY(a.voices == b.voices && a.gaveWay == b.gaveWay);
                QVERIFY(near(a.values[0], b.values[0], 1e-6));
                QCOMPARE(a.rooms.size(), b.rooms.size());
                QCOMPARE(a.copies.size(), b.copies.size());
                for (std::size_t k = 0; k < a.copies.size(); ++k) {
                    const TakenCopy& x = a.copies[k];
                    const TakenCopy& y = b.copies[k];
                    QVERIFY(x.copy == y.copy && x.audible == y.audible && near(x.level_db, y.level_db) && near(x.at, y.at) &&
                            near(x.direction, y.direction) && x.gaveWay == y.gaveWay && x.terms.size() == y.terms.size());
                    for (std::size_t line = 0; line < x.terms.size(); ++line) {
                        const Term& s = *(x.terms.begin() + line);
                        const Term& t = *(y.terms.begin() + line);
                        QVERIFY(s.kind == t.kind && near(s.db, t.db));
                    }
                }
            }
            // Cut off anywhere, what was whole before that is there.
            for (std::size_t size = 0; size < chunk.size(); size += 97) {
                const auto some = decodeMoments(std::string_view(chunk).substr(0, size));
                QVERIFY(some.size() < moments.size());
                if (!some.empty()) {
                    QVERIFY(near(some.back().t_s, moments[some.size() - 1].t_s, 6e-5));
                }
            }
        }
    }

    /// Level by level, line by line, to a hundredth; the sound to 24 bits; signals and values when they came.
    void aTakeIsWhatWasHeard()
    {
        const Project project = takenYard();
        const Recorded was = record(project, file("whole.take"));
        const Take take(file("whole.take"));
        QVERIFY2(take.damage().empty(), take.damage().c_str());
        QVERIFY(std::abs(take.seconds() - 8.0) < 0.06);
        int compared = 0;
        int moments = 0;
        take.eachMoment([&](const TakenMoment& moment) {
            ++moments;
            // The step at whose beginning it is.
            const auto step = was.heard.lower_bound(moment.t_s - 1e-4);
            std::size_t audible = 0;
            for (const Heard& heard : step->second) {
                audible += heard.audible ? 1 : 0;
            }
            std::size_t taken = 0;
            for (const TakenCopy& copy : moment.copies) {
                taken += copy.audible ? 1 : 0;
                const TakeCopy& which = take.copies()[copy.copy];
                for (const Heard& heard : step->second) {
                    if (heard.index == which.emitter && heard.start.number == which.number &&
                        static_cast<std::uint8_t>(heard.start.part) == which.part) {
                        if (!near(heard.level_db, copy.level_db) || heard.terms.size() != copy.terms.size() ||
                            std::abs(copy.terms.total() - copy.level_db) > 0.05) {
                            return false;
                        }
                        ++compared;
                    }
                }
            }
            return taken == audible;
        });
        QVERIFY2(moments >= 159 && moments <= 161, qPrintable(QString::number(moments)));
        QVERIFY2(compared > 300, qPrintable(QString::number(compared)));
        // What it sounded like.
        const auto sound = take.sound(0, take.soundFrames());
        QCOMPARE(sound.size(), was.sound.size());
        for (std::size_t i = 0; i < sound.size(); i += 7) {
            QVERIFY(std::abs(sound[i] - was.sound[i]) < 2e-7F);
        }
        const auto middle = take.sound(100'001, 4'000);
        QVERIFY(middle.size() == 8'000 && std::abs(middle[10] - was.sound[200'012]) < 2e-7F);
        // What happened, when.
        QCOMPARE(take.events().size(), std::size_t(2));
        QVERIFY(take.events()[0].kind == TakeEvent::Kind::signal && take.events()[0].name == "Gust" &&
                std::abs(take.events()[0].t_s - 2.0) < 0.006);
        QVERIFY(take.events()[1].kind == TakeEvent::Kind::value && take.events()[1].number == 1.0 &&
                std::abs(take.events()[1].t_s - 4.0) < 0.006);
        QCOMPARE(take.documentText(0), projectText(project));
        // Loudness of its own time, costs, and the overview.
        QVERIFY(take.info().truePeak_db > -60.0 && std::isfinite(take.info().integrated_lufs));
        QVERIFY(take.costs().size() >= 14);
        const auto overview = take.overview();
        QVERIFY2(overview.size() >= 16 && overview.size() <= 19, qPrintable(QString::number(overview.size())));
        for (const TakeBin& bin : overview) {
            for (const TakeBin::Of& of : bin.emitters) {
                QVERIFY(of.mean_db <= of.most_db + 0.02F);
            }
        }
    }

    void valuesOverTime()
    {
        record(takenYard(), file("series.take"), false);
        const Take take(file("series.take"));
        QVERIFY(!take.hasSound() && std::isfinite(take.info().integrated_lufs));
        const TakeSeries level = seriesOf(take, "level", "lamp");
        QVERIFY(level.points.size() > 150 && level.unit == "dB");
        // Nearest at 3 s, where the walk passes 4 m beside it.
        const auto loudest = std::max_element(level.points.begin(), level.points.end(),
                                              [](const auto& a, const auto& b) { return a.second < b.second; });
        QVERIFY(std::abs(loudest->first - 3.0) < 0.06 && std::abs(loudest->second + 20.0 * std::log10(4.0)) < 0.02);
        const TakeSeries wind = seriesOf(take, "Wind");
        QVERIFY(wind.points[70].second == 0.0 && wind.points[90].second == 1.0);
        const TakeSeries value = seriesOf(take, "game value", "soft");
        QVERIFY(value.points[70].second == 0.0 && std::abs(value.points[100].second + 12.0) < 0.01);
        const TakeSeries away = seriesOf(take, "distance-m", "lamp");
        QVERIFY(std::abs(away.points[60].second - 4.0) < 0.02);
        const TakeSeries copies = seriesOf(take, "copies", "moths");
        QVERIFY(std::any_of(copies.points.begin(), copies.points.end(), [](const auto& p) { return p.second >= 1.0; }));
        QVERIFY(!seriesOf(take, "cpu").points.empty() && !seriesOf(take, "loudness").points.empty());
        for (const auto& [what, of] : {std::pair("colour", ""), std::pair("level", "nobody"), std::pair("walls", "")}) {
            QVERIFY_EXCEPTION_THROWN(seriesOf(take, what, of), std::invalid_argument);
        }
    }

    /// The same project, seed and walk: nothing but cost.
    void twoOfTheSameDifferInNothingButCost()
    {
        record(takenYard(), file("a.take"), false);
        record(takenYard(), file("b.take"), false);
        const Take a(file("a.take"));
        const Take b(file("b.take"));
        const TakeComparison same = compareTakes(a, b);
        QVERIFY(same.byTime && same.changed.empty() && same.emitters.size() == 3);
        for (const TakeDifference& one : same.emitters) {
            QVERIFY(one.mean_db == 0.0 && one.largest_db == 0.0 && !one.cameNew && !one.wentAway);
        }
        QVERIFY(same.first.integrated_lufs == same.second.integrated_lufs &&
                same.first.truePeak_db == same.second.truePeak_db && same.first.voicesMean == same.second.voicesMean &&
                same.first.way_m == same.second.way_m);
        QVERIFY(std::abs(same.first.way_m - 16.0) < 0.2);
    }

    /// What was changed, in words, and what that did: where, to whom, how much; and nobody else.
    void whatAChangeDid()
    {
        record(takenYard(), file("before.take"), false);
        Project softer = withEmitter(takenYard(), {"level"}, {"lamp"}, [](Emitter& e) { e.level_db = -6.0; });
        softer = withLevel(softer, {"level"}, [](Level& l) { l.emitters.put(pointAt("new", {0, 8, 1.6})); });
        record(softer, file("after.take"), false);
        const TakeComparison did = compareTakes(Take(file("before.take")), Take(file("after.take")));
        QCOMPARE(did.changed.size(), std::size_t(2));
        QVERIFY(inWords(did.changed[0]).find("lamp") != std::string::npos);
        std::map<std::string, TakeDifference> by;
        for (const TakeDifference& one : did.emitters) {
            by[one.name] = one;
        }
        QVERIFY(std::abs(by["lamp"].mean_db + 6.0) < 0.01 && std::abs(by["lamp"].largest_db + 6.0) < 0.02);
        QVERIFY(by["soft"].mean_db == 0.0 && by["soft"].largest_db == 0.0);
        QVERIFY(by["new"].cameNew && by["new"].mean_db > 20.0 && std::abs(by["new"].at_s - 6.0) < 0.56); // full within 1 m
        QCOMPARE(did.emitters.front().name, std::string("new"));
        // The other way round it has gone.
        const TakeComparison back = compareTakes(Take(file("after.take")), Take(file("before.take")));
        QVERIFY(back.emitters.front().wentAway);
    }

    /// Of another walk, or walked freely: by the place along the way.
    void takesOfOtherLengthsMeetAlongTheWay()
    {
        Project slow = takenYard();
        slow = withLevel(slow, {"level"}, [](Level& level) {
            Walk walk = *level.walks[0];
            walk.id = {"slow"};
            walk.points.back().t_s = 12.0;
            walk.events.clear();
            level.walks = {};
            level.walks.put(walk);
        });
        record(takenYard(), file("quick.take"), false);
        // The recorder is told the same walk's name by infoOf(): another one.
        {
            OfflineJob job;
            job.scene = fixture::sceneOf(slow, fixture::toneBuffer());
            const Walk& walk = *job.scene->model.level().walks[0];
            job.to_s = walk.seconds();
            followWalk(job, walk);
            TakeInfo info = infoOf(slow);
            info.walkId = "slow";
            TakeRecorder recorder(file("slow.take"), info, false, true);
            recorder.changed(std::make_shared<const Project>(slow), {});
            job.listener = &recorder;
            fixture::rendered(job);
            recorder.finish();
        }
        const Take quick(file("quick.take"));
        const Take slowly(file("slow.take"));
        const TakeAlignment alignment(quick, slowly);
        QVERIFY(!alignment.byTime());
        QVERIFY2(std::abs(alignment.inSecond_s(4.0) - 6.0) < 0.15, qPrintable(QString::number(alignment.inSecond_s(4.0))));
        QVERIFY(std::abs(alignment.inFirst_s(6.0) - 4.0) < 0.15);
        const TakeComparison met = compareTakes(quick, slowly);
        for (const TakeDifference& one : met.emitters) {
            if (one.name == "lamp") {
                QVERIFY2(std::abs(one.mean_db) < 0.2, qPrintable(QString::number(one.mean_db)));
            }
        }
    }

    /// A program that is killed while it records leaves a take that opens up to where it goes; so does a copy that was cut off.
    /// One way gone twice, the second with a detour and two bumps: part by part each has its own.
    void partsOfTheWay()
    {
        const auto go = [&](const char* name, const std::vector<Vec3>& places, const std::vector<double>& bumps_s) {
            Made made(file(name));
            for (std::size_t i = 0; i < places.size(); ++i) {
                made.addAt(static_cast<double>(i) * takeStep_s, places[i]);
            }
            for (const double t_s : bumps_s) {
                made.writer().add(TakeEvent{t_s, TakeEvent::Kind::bump, {}, 0.0, {}});
            }
            made.finish();
        };
        std::vector<Vec3> straight;
        for (int i = 0; i <= 200; ++i) {
            straight.push_back({0.1 * i, 0, 0}); // 20 m in 10 s
        }
        std::vector<Vec3> detour;
        for (int i = 0; i <= 100; ++i) {
            detour.push_back({0.1 * i, 0, 0});
        }
        for (int i = 0; i <= 60; ++i) {
            detour.push_back({10.0, 0.1 * (i < 30 ? i : 60 - i), 0}); // aside and back
        }
        for (int i = 0; i <= 100; ++i) {
            detour.push_back({10.0 + 0.1 * i, 0, 0});
        }
        go("seen.take", straight, {});
        go("blind.take", detour, {6.0, 7.0});
        const auto parts = stretchesOf(Take(file("seen.take")), Take(file("blind.take")), 4);
        QCOMPARE(parts.size(), std::size_t(4));
        for (std::size_t i = 0; i < 4; ++i) {
            QVERIFY(near(parts[i].first.way_m, 5.0, 0.11) && near(parts[i].first.to_s - parts[i].first.from_s, 2.5, 0.06));
            QVERIFY(near(parts[i].to.x, 5.0 * static_cast<double>(i + 1), 0.11));
        }
        QVERIFY(near(parts[0].second.way_m, 5.0, 0.2) && parts[0].second.bumps == 0);
        QVERIFY(near(parts[2].second.way_m, 11.0, 0.4) || near(parts[1].second.way_m, 11.0, 0.4));
        QCOMPARE(parts[1].second.bumps + parts[2].second.bumps, 2);
        double all_m = 0.0;
        for (const TakeStretch& part : parts) {
            all_m += part.second.way_m;
        }
        QVERIFY(near(all_m, 26.0, 0.2));
        const TakeComparison comparison = compareTakes(Take(file("seen.take")), Take(file("blind.take")));
        QVERIFY(!comparison.byTime && comparison.stretches.size() == 6);
        QVERIFY(stretchesOf(Take(file("seen.take")), Take(file("seen.take")), 1)[0].second.bumps == 0);
        go("still.take", std::vector<Vec3>(20, Vec3{1, 1, 0}), {});
        QVERIFY(stretchesOf(Take(file("still.take")), Take(file("seen.take"))).empty());
    }

    void tornFilesOpen()
    {
        const auto path = file("torn.take");
        {
            // Nothing is finished: as if the program were gone.
            TakeWriter writer(path, TakeInfo{.rate = 48'000});
            writer.addEmitter({{"lamp"}, "Lamp", EmitterKind::point, {}, {}});
            writer.addCopy({0, 0, 0, {"tone"}, "tone", 0.0});
            MomentEncoder encoder;
            for (int chunk = 0; chunk < 20; ++chunk) {
                for (int i = 0; i < 100; ++i) {
                    TakenMoment moment;
                    moment.t_s = chunk * 5.0 + i * takeStep_s;
                    for (std::uint32_t k = 0; k < 1; ++k) {
                        moment.copies.push_back(heardAt(k, -20.0 - 0.013 * ((i * 7919 + chunk * 104'729) % 1'000)));
                    }
                    encoder.add(moment);
                }
                writer.addMoments(chunk * 5.0, chunk * 5.0 + 4.95, encoder.take());
                writer.commit();
                if (chunk == 9) {
                    std::filesystem::copy_file(path, file("killed.take"));
                }
            }
        }
        const Take killed(file("killed.take"));
        QVERIFY(killed.damage().empty());
        QVERIFY(std::abs(killed.seconds() - 49.95) < 0.01);
        int moments = 0;
        killed.eachMoment([&](const TakenMoment&) { return ++moments > 0; });
        QCOMPARE(moments, 1'000);
        const auto size = std::filesystem::file_size(path);
        int opened = 0;
        for (std::uintmax_t cut = 0; cut < size; cut += 4'096 / 2) {
            std::filesystem::copy_file(path, file("cut.take"), std::filesystem::copy_options::overwrite_existing);
            std::filesystem::resize_file(file("cut.take"), cut);
            try {
                const Take some(file("cut.take"));
                int whole = 0;
                some.eachMoment([&](const TakenMoment& moment) { return near(moment.t_s, takeStep_s * whole++, 1e-3); });
                some.overview();
                some.costs();
                some.sound(0, 100);
                some.momentAt(3.0);
                ++opened;
            } catch (const FileError& error) {
                QVERIFY(std::string(error.what()).find("cut.take") != std::string::npos);
            }
        }
        QVERIFY(opened > 2);
        // Bytes turned over anywhere: a word, or what is left, and never more than that.
        QFile whole(QString::fromStdString(path.string()));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        const QByteArray bytes = whole.readAll();
        std::mt19937 random(3);
        for (int i = 0; i < 120; ++i) {
            QByteArray damaged = bytes;
            for (int k = 0; k < 6; ++k) {
                damaged[static_cast<qsizetype>(100 + random() % static_cast<unsigned>(bytes.size() - 100))] ^=
                    static_cast<char>(1U << random() % 8);
            }
            QFile out(folder_.filePath("damaged.take"));
            QVERIFY(out.open(QIODevice::WriteOnly | QIODevice::Truncate));
            out.write(damaged);
            out.close();
            try {
                const Take some(file("damaged.take"));
                some.eachMoment([](const TakenMoment&) { return true; });
                some.overview();
                totalsOf(some);
                findInTake(some);
            } catch (const FileError&) {
            }
        }
    }

    void onlyATakeGivesWayToATake()
    {
        fixture::writeText(file("letter.take"), "Dear Sir, this is no take, and should be left alone by everybody.");
        QVERIFY_EXCEPTION_THROWN(TakeWriter(file("letter.take"), {}), FileError);
        QVERIFY_EXCEPTION_THROWN(Take(file("letter.take")), FileError);
        QVERIFY_EXCEPTION_THROWN(Take(file("missing.take")), FileError);
        QCOMPARE(std::filesystem::file_size(file("letter.take")), std::uintmax_t(65));
        Made(file("one.take")).finish();
        Made again(file("one.take"), {"fan"});
        again.add(0.0, {heardAt(0, -20.0)});
        again.finish();
        QCOMPARE(Take(file("one.take")).emitters()[0].name, std::string("fan"));
        std::filesystem::create_symlink(file("one.take"), file("link.take"));
        QVERIFY_EXCEPTION_THROWN(TakeWriter(file("link.take"), {}), FileError);
    }

    /// Jumps, flips, dropouts, heaps, flutter: with their moment; and nothing about what is as it should be.
    void whatToListenToAlongATake()
    {
        const auto found = [&](const std::function<std::vector<TakenCopy>(double)>& at,
                               std::vector<std::string> names = {"lamp"}) {
            Made made(file("found.take"), std::move(names));
            for (int i = 0; i < 200; ++i) {
                made.add(i * takeStep_s, at(i * takeStep_s));
            }
            made.finish();
            return findInTake(Take(file("found.take")));
        };
        const auto level = [](auto&& level_db) {
            return [level_db](double t) { return std::vector<TakenCopy>{heardAt(0, level_db(t))}; };
        };
        QVERIFY(found(level([](double t) { return -20.0 - t; })).empty());
        const auto jump = found(level([](double t) { return t < 4.0 ? -30.0 : -22.0; }));
        QVERIFY(jump.size() == 1 && jump[0].code == "level-jumps" && std::abs(jump[0].t_s - 4.0) < 0.06);
        QVERIFY(jump[0].what.find("8 dB up") != std::string::npos && jump[0].emitter == EmitterId{"lamp"});
        // Over half a second it is a fade.
        QVERIFY(found(level([](double t) { return t < 4.0 ? -30.0 : std::min(-30.0 + 16.0 * (t - 4.0), -22.0); })).empty());
        const auto side = [](double t) { return std::vector<TakenCopy>{heardAt(0, -20.0, t < 3.0 ? -0.9 : 0.9)}; };
        const auto flip = found(side);
        QVERIFY(flip.size() == 1 && flip[0].code == "flips-side" && std::abs(flip[0].t_s - 3.0) < 0.06);
        const auto slowly = [](double t) { return std::vector<TakenCopy>{heardAt(0, -20.0, std::sin(t))}; };
        QVERIFY(found(slowly).empty());
        const auto gap = [](double t) {
            return t > 5.0 && t < 5.4 ? std::vector<TakenCopy>{} : std::vector<TakenCopy>{heardAt(0, -20.0)};
        };
        const auto dropout = found(gap);
        QVERIFY(dropout.size() == 1 && dropout[0].code == "drops-out" && std::abs(dropout[0].t_s - 5.4) < 0.11);
        const auto flutter = found([](double t) {
            TakenCopy copy = heardAt(0, -55.0);
            if (static_cast<int>(t / 0.3) % 2 == 0) {
                copy.audible = false;
                copy.gaveWay = GaveWay{};
                copy.gaveWay->crowd = Crowd::sound;
            }
            return std::vector<TakenCopy>{copy};
        });
        QVERIFY(!flutter.empty() && flutter[0].code == "flutters");
        std::vector<std::string> many;
        for (int i = 0; i < 12; ++i) {
            many.push_back("moth" + std::to_string(i));
        }
        const auto heap = found(
            [](double) {
                std::vector<TakenCopy> copies;
                for (std::uint32_t i = 0; i < 12; ++i) {
                    copies.push_back(heardAt(i, -30.0));
                }
                return copies;
            },
            many);
        QVERIFY(heap.size() == 1 && heap[0].code == "piles-up" && heap[0].what.find("12 times") != std::string::npos);
    }

    /// An hour of 200 emitters stays below 200 MB: a minute of it, with ears that walk and turn and levels that follow.
    void anHourOfTwoHundredIsSmall()
    {
        constexpr int minute = 60 * 20;
        Made* made = nullptr;
        std::vector<std::string> names;
        for (int i = 0; i < 200; ++i) {
            names.push_back("e" + std::to_string(i));
        }
        Made all(file("large.take"), names);
        made = &all;
        std::mt19937 random(5);
        std::vector<Vec3> places;
        for (int i = 0; i < 200; ++i) {
            places.push_back({static_cast<double>(random() % 200), static_cast<double>(random() % 200), 1.6});
        }
        for (int i = 0; i < minute; ++i) {
            const double t = i * takeStep_s;
            const Pose ears{{100.0 + 1.4 * t, 50.0 + 20.0 * std::sin(t / 9.0), 1.6}, 40.0 * std::sin(t / 3.0), 0, 0};
            const Frame frame = frameOf(ears);
            std::vector<TakenCopy> copies;
            for (std::uint32_t k = 0; k < 200; ++k) {
                TakenCopy copy;
                copy.copy = k;
                copy.audible = true;
                const Bearing bearing = bearingOf(frame, ears.at, places[k]);
                const double distance_db = -20.0 * std::log10(std::max(bearing.distance_m, 1.0));
                const double walls_db = -6.0 - 3.0 * std::sin(t / 5.0 + k);
                copy.terms.add(TermKind::sound, -3.0);
                copy.terms.add(TermKind::emitter, -6.0);
                copy.terms.add(TermKind::distance, distance_db);
                copy.terms.add(TermKind::walls, walls_db);
                copy.level_db = copy.terms.total();
                copy.at = places[k];
                copy.direction = bearing.local / std::max(bearing.distance_m, 1e-9);
                copies.push_back(copy);
            }
            made->add(t, copies);
        }
        made->finish();
        const double hour_mb = static_cast<double>(std::filesystem::file_size(file("large.take"))) * 60.0 / 1e6;
        QVERIFY2(hour_mb < 200.0, qPrintable(QString("%1 MB an hour").arg(hour_mb)));
        qInfo("%.0f MB an hour", hour_mb);
    }

    /// One page with everything in it, whatever things are called; nothing of it is elsewhere.
    void aPageToShowOthers()
    {
        Project project = withEmitter(takenYard(), {"level"}, {"lamp"}, [](Emitter& e) { e.name = "<b>Lamp & \"co\"</b>"; });
        record(project, file("page.take"));
        project = withEmitter(project, {"level"}, {"lamp"}, [](Emitter& e) { e.level_db = -6.0; });
        record(project, file("page2.take"), false);
        const Take take(file("page.take"));
        const Take other(file("page2.take"));
        const std::string page = takePage(take, &other);
        QVERIFY(page.starts_with("<!DOCTYPE html>") && page.ends_with("</html>\n"));
        QVERIFY(page.find("<b>Lamp") == std::string::npos &&
                page.find("&lt;b&gt;Lamp &amp; &quot;co&quot;") != std::string::npos);
        for (const char* elsewhere : {"http:", "https:", "src=\"/", "url(", "@import", "<link"}) {
            QVERIFY2(page.find(elsewhere) == std::string::npos, elsewhere);
        }
        QVERIFY(page.find("data:audio/flac;base64,ZkxhQ") != std::string::npos); // "fLaC"
        QVERIFY(page.find("What was changed in between") != std::string::npos && page.find("6.0 dB") != std::string::npos);
        // The second has no sound: then there is nothing to play.
        QVERIFY(takePage(other).find("<audio controls") == std::string::npos);
        QVERIFY(takePage(take, nullptr, [](double) { return false; }).empty());
    }

    /// What is edited while it records is an event in it, and the document from then on is there.
    void editsAreEvents()
    {
        const Project before = takenYard();
        Project after = withEmitter(before, {"level"}, {"lamp"}, [](Emitter& e) { e.level_db = -9.0; });
        OfflineJob job;
        job.scene = fixture::sceneOf(before, fixture::toneBuffer());
        const Walk& walk = *job.scene->model.level().walks[0];
        job.to_s = 4.0;
        followWalk(job, walk);
        job.threads = 1;
        TakeRecorder recorder(file("edited.take"), infoOf(before), false, true);
        recorder.changed(std::make_shared<const Project>(before), {});
        job.listener = &recorder;
        bool done = false;
        job.heard = [&](std::uint64_t step, std::span<const Heard>) {
            if (!done && static_cast<double>(step) * 256.0 / 48'000.0 > 2.0) {
                done = true;
                recorder.changed(std::make_shared<const Project>(after), "Emitter lamp: level to -9 dB");
                recorder.note(TakeEvent::Kind::bump, "a wall");
            }
        };
        fixture::rendered(job);
        recorder.finish();
        const Take take(file("edited.take"));
        QCOMPARE(take.documents().size(), std::size_t(2));
        QVERIFY(std::abs(take.documents()[1].t_s - 2.0) < 0.01);
        QCOMPARE(take.documentText(1), projectText(after));
        const auto edit = std::find_if(take.events().begin(), take.events().end(),
                                       [](const TakeEvent& event) { return event.kind == TakeEvent::Kind::edit; });
        QVERIFY(edit != take.events().end() && edit->name == "Emitter lamp: level to -9 dB");
        QCOMPARE(totalsOf(take).bumps, 1);
    }
};

} // namespace tst_takes

STONE_TEST(tst_takes, TestTakes)
#include "tst_takes.moc"
