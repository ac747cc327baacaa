// SPDX-License-Identifier: GPL-3.0-or-later
#include "hearing/reasons.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QFile>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <set>

namespace tst_give_way
{

using namespace stone;
using fixture::pointAt;

namespace
{

constexpr double endless = std::numeric_limits<double>::infinity();
constexpr double step_s = 256.0 / 48'000.0;

Copy copyOf(std::uint64_t key, double level_db, double ends_s = endless)
{
    Copy copy;
    copy.key = key;
    copy.emitter = static_cast<std::uint32_t>(key);
    copy.ends_s = ends_s;
    copy.level_db = level_db;
    copy.limits = {0, Copy::unlimited, Copy::unlimited};
    return copy;
}

std::vector<bool> soundsOf(const std::vector<GiveWay::Verdict>& verdicts)
{
    std::vector<bool> sounds;
    for (const auto& verdict : verdicts) {
        sounds.push_back(verdict.sounds);
    }
    return sounds;
}

/// Two tones of one sound on either side, between which the ears go to and fro: now one is louder, now the other.
Project twoLamps(int atOnce)
{
    Project project = fixture::projectWith({pointAt("left", {-6, 0, 1.6}), pointAt("right", {6, 0, 1.6})});
    Sound tone = *project.sounds.find({"tone"});
    tone.limit.atOnce = atOnce;
    project.sounds.put(tone);
    return project;
}

OfflineJob toAndFro(const Project& project, double seconds)
{
    OfflineJob job;
    job.scene = fixture::sceneOf(project, fixture::toneBuffer());
    job.to_s = seconds;
    job.ears = [](double t) { return Pose{{5.0 * std::sin(std::numbers::pi * t), 0, 1.6}, 0, 0, 0}; };
    return job;
}

} // namespace

/// Limits on copies: who sounds and who gives way, by themselves and in what comes out.
class TestGiveWay : public QObject
{
    Q_OBJECT

    struct Fate {
        std::vector<std::pair<double, double>> heard;
        bool refused = false;
        bool dropped = false;
    };

    static void follow(const QJsonArray& events, const QJsonObject& given)
    {
        const bool drop = given["voice_mode"] == "drop";
        static const std::map<QString, GivesWay> rules{{"drop-quietest", GivesWay::quietest},
                                                       {"drop-oldest", GivesWay::oldest},
                                                       {"drop-farthest", GivesWay::farthest},
                                                       {"refuse-new", GivesWay::newest}};
        const Limit limit{.atOnce = given["cap"].toInt(), .givesWay = rules.at(given["rule"].toString())};
        std::map<double, const QJsonArray*> asked;
        std::vector<QJsonArray> audible;
        const QJsonArray timeline = given["timeline"].toArray();
        audible.reserve(static_cast<std::size_t>(timeline.size()));
        for (const QJsonValue moment : timeline) {
            audible.push_back(moment["audible"].toArray());
            asked[moment["t"].toDouble()] = &audible.back();
        }
        const auto endOf = [](const QJsonValue& event) {
            return event["duration"].isNull() ? endless : event["start"].toDouble() + event["duration"].toDouble();
        };
        std::set<double> instants;
        for (const QJsonValue event : events) {
            instants.insert(event["start"].toDouble());
            if (std::isfinite(endOf(event))) {
                instants.insert(endOf(event));
            }
        }
        for (const auto& [t, unused] : asked) {
            instants.insert(t);
        }
        GiveWay giveWay(GiveWay::Margins::none());
        std::map<QString, Fate> fates;
        std::map<QString, double> since;
        for (const double now : instants) {
            std::vector<Copy> copies;
            std::vector<QString> names;
            for (int i = 0; i < events.size(); ++i) {
                const QJsonValue event = events[i];
                if (event["start"].toDouble() > now || endOf(event) <= now) {
                    continue;
                }
                Copy copy = copyOf(static_cast<std::uint64_t>(i), event["level_db"].toDouble());
                copy.began_s = event["start"].toDouble();
                copy.ends_s = drop ? std::min(endOf(event), 1e9) : endless;
                copy.grade = event["priority"].toDouble();
                copy.distance_m = event["distance"].toDouble();
                copies.push_back(copy);
                names.push_back(event["id"].toString());
            }
            std::vector<GiveWay::Verdict> verdicts;
            giveWay.decide(now, copies, std::span(&limit, 1), verdicts);
            std::set<QString> sounding;
            for (std::size_t i = 0; i < names.size(); ++i) {
                if (verdicts[i].sounds) {
                    sounding.insert(names[i]);
                    since.try_emplace(names[i], now);
                } else if (drop) {
                    QVERIFY(verdicts[i].why.forGood);
                    (verdicts[i].why.sounded ? fates[names[i]].dropped : fates[names[i]].refused) = true;
                }
            }
            for (auto one = since.begin(); one != since.end();) {
                if (!sounding.contains(one->first)) {
                    fates[one->first].heard.emplace_back(one->second, now);
                    one = since.erase(one);
                } else {
                    ++one;
                }
            }
            if (const auto expected = asked.find(now); expected != asked.end()) {
                std::set<QString> wanted;
                for (const QJsonValue id : *expected->second) {
                    wanted.insert(id.toString());
                }
                QCOMPARE(sounding, wanted);
            }
        }
        const QJsonObject expected = given["fate"].toObject();
        for (const QString& id : expected.keys()) {
            const QString status = expected[id]["status"].toString();
            const QJsonArray spans = expected[id]["heard"].toArray();
            const Fate& fate = fates[id];
            for (int i = 0; i < spans.size() && i < static_cast<int>(fate.heard.size()); ++i) {
                QCOMPARE(fate.heard[static_cast<std::size_t>(i)].first, spans[i][0].toDouble());
                if (!spans[i][1].isNull()) {
                    QCOMPARE(fate.heard[static_cast<std::size_t>(i)].second, spans[i][1].toDouble());
                }
            }
            if (drop) {
                QCOMPARE(fate.refused, status == "refused");
                QCOMPARE(fate.dropped, status == "dropped");
            }
        }
    }

private slots:
    void equalsTheReference()
    {
        QFile file(QString(TEST_DATA) + "/14_give_way.json");
        QVERIFY(file.open(QIODevice::ReadOnly));
        int cases = 0;
        for (const QJsonValue scenario : QJsonDocument::fromJson(file.readAll()).object()["scenarios"].toArray()) {
            for (const QJsonValue given : scenario["cases"].toArray()) {
                // Grades always come first here.
                if (given["priority_mode"] == "first") {
                    follow(scenario["events"].toArray(), given.toObject());
                    ++cases;
                }
            }
        }
        QVERIFY(cases >= 40);
    }

    /// Two that differ by 1 dB and wobble by 2 dB at many rates swap less than once a second; without margins they do all
    /// the time.
    void twoAlikeDoNotTakeTurns()
    {
        const Limit limit{.atOnce = 1};
        const auto swaps = [&](const GiveWay::Margins& margins, double rate_hz) {
            GiveWay giveWay(margins);
            std::vector<GiveWay::Verdict> verdicts;
            int count = 0;
            std::optional<bool> before;
            constexpr double seconds = 20.0;
            for (double now = 0.0; now < seconds; now += step_s) {
                const double wobble = 2.0 * std::sin(2.0 * std::numbers::pi * rate_hz * now);
                const Copy copies[] = {copyOf(0, -20.0 + wobble), copyOf(1, -21.0 - wobble)};
                giveWay.decide(now, copies, std::span(&limit, 1), verdicts);
                if (verdicts[0].sounds == verdicts[1].sounds) {
                    return -1.0;
                }
                count += before && *before != verdicts[0].sounds ? 1 : 0;
                before = verdicts[0].sounds;
            }
            return count / seconds;
        };
        for (const double rate_hz : {0.2, 0.5, 1.0, 2.0, 5.0, 11.0}) {
            const double calm = swaps({}, rate_hz);
            QVERIFY2(calm >= 0.0 && calm < 1.0, qPrintable(QString("%1 Hz: %2 swaps a second").arg(rate_hz).arg(calm)));
            QVERIFY(swaps(GiveWay::Margins::none(), rate_hz) > 1.9 * rate_hz);
        }
    }

    /// However wildly levels go, what came back stays a while.
    void whatCameBackStaysAWhile()
    {
        const Limit limit{.atOnce = 1};
        GiveWay giveWay;
        std::vector<GiveWay::Verdict> verdicts;
        double since = -1.0;
        double shortest = 1e9;
        std::optional<bool> before;
        for (double now = 0.0; now < 20.0; now += step_s) {
            const bool first = static_cast<int>(now / 0.12) % 2 == 0;
            const Copy copies[] = {copyOf(0, first ? 0.0 : -60.0), copyOf(1, first ? -60.0 : 0.0)};
            giveWay.decide(now, copies, std::span(&limit, 1), verdicts);
            if (before && *before != verdicts[0].sounds) {
                shortest = since >= 0.0 ? std::min(shortest, now - since) : shortest;
                since = now;
            }
            before = verdicts[0].sounds;
        }
        QVERIFY2(shortest >= 0.2 - step_s, qPrintable(QString::number(shortest)));
    }

    /// What came too soon is gone, and does not hold off what comes after it.
    void oneShotsKeepTheirDistance()
    {
        const Limit limit{.holdOff_s = 0.5};
        GiveWay giveWay;
        std::vector<GiveWay::Verdict> verdicts;
        std::vector<Copy> copies;
        std::vector<double> let;
        for (int i = 0; i < 40; ++i) {
            Copy copy = copyOf(static_cast<std::uint64_t>(i), -20.0, 0.2 * i + 3.0);
            copy.began_s = 0.2 * i;
            copies.push_back(copy);
            giveWay.decide(copy.began_s, copies, std::span(&limit, 1), verdicts);
            if (verdicts.back().sounds) {
                let.push_back(copy.began_s);
            } else {
                QVERIFY(verdicts.back().why.forGood && verdicts.back().why.atOnce == 0 && !verdicts.back().why.sounded);
            }
        }
        QCOMPARE(let.size(), std::size_t(14)); // each third
        for (std::size_t i = 1; i < let.size(); ++i) {
            QVERIFY(std::abs(let[i] - let[i - 1] - 0.6) < 1e-9);
        }
        // Loops are not held off, nor is what must always be heard.
        const Copy loops[] = {copyOf(100, -20.0), copyOf(101, -20.0)};
        giveWay.decide(100.0, loops, std::span(&limit, 1), verdicts);
        QVERIFY(verdicts[0].sounds && verdicts[1].sounds);
        Copy vital = copyOf(102, -20.0, 200.0);
        Copy next = copyOf(103, -20.0, 200.0);
        vital.vital = next.vital = true;
        vital.began_s = next.began_s = 101.0;
        const Copy both[] = {vital, next};
        giveWay.decide(101.0, both, std::span(&limit, 1), verdicts);
        QVERIFY(verdicts[0].sounds && verdicts[1].sounds);
    }

    void eachEmitterMayCountForItself()
    {
        std::vector<Copy> copies;
        for (std::uint64_t i = 0; i < 6; ++i) {
            copies.push_back(copyOf(i, -20.0 - static_cast<double>(i)));
            copies.back().emitter = static_cast<std::uint32_t>(i / 3);
        }
        std::vector<GiveWay::Verdict> verdicts;
        Limit limit{.atOnce = 2};
        GiveWay().decide(0.0, copies, std::span(&limit, 1), verdicts);
        QCOMPARE(soundsOf(verdicts), (std::vector<bool>{true, true, false, false, false, false}));
        limit.eachEmitter = true;
        GiveWay().decide(0.0, copies, std::span(&limit, 1), verdicts);
        QCOMPARE(soundsOf(verdicts), (std::vector<bool>{true, true, false, true, true, false}));
        QCOMPARE(verdicts[2].why.to, 0U);
        QCOMPARE(verdicts[5].why.to, 1U);
    }

    /// Who has given way by the limit of its sound takes no place in its family, and that none in the level.
    void limitsAreTakenInOrder()
    {
        const Limit limits[] = {{.atOnce = 1}, {.atOnce = 2}, {.atOnce = 3}};
        std::vector<Copy> copies;
        for (std::uint64_t i = 0; i < 8; ++i) {
            Copy copy = copyOf(i, -static_cast<double>(i));
            copy.limits = {i < 4 ? 0U : Copy::unlimited, i < 6 ? 1U : Copy::unlimited, 2U};
            copies.push_back(copy);
        }
        std::vector<GiveWay::Verdict> verdicts;
        GiveWay().decide(0.0, copies, limits, verdicts);
        QCOMPARE(soundsOf(verdicts), (std::vector<bool>{true, false, false, false, true, false, true, false}));
        QVERIFY(verdicts[1].why.crowd == Crowd::sound && verdicts[1].why.atOnce == 1);
        QVERIFY(verdicts[5].why.crowd == Crowd::family && verdicts[5].why.atOnce == 2);
        QVERIFY(verdicts[7].why.crowd == Crowd::level && verdicts[7].why.atOnce == 3);
        // What must be heard is, beyond any limit.
        for (Copy& copy : copies) {
            copy.vital = true;
        }
        GiveWay().decide(0.0, copies, limits, verdicts);
        QVERIFY(std::all_of(verdicts.begin(), verdicts.end(), [](const auto& v) { return v.sounds; }));
    }

    /// After an edit that takes an emitter out, those that are gone stay gone under their new numbers.
    void goneForGoodStaysSoUnderAnotherNumber()
    {
        const Limit limit{.atOnce = 1};
        GiveWay giveWay;
        std::vector<GiveWay::Verdict> verdicts;
        Start start;
        const auto copyNumbered = [&](std::uint32_t emitter, double level_db) {
            start.emitter = emitter;
            Copy copy = copyOf(keyOf(start), level_db, 100.0);
            copy.emitter = emitter;
            return copy;
        };
        const Copy before[] = {copyNumbered(1, -10.0), copyNumbered(2, -20.0)};
        giveWay.decide(0.0, before, std::span(&limit, 1), verdicts);
        QVERIFY(verdicts[0].sounds && !verdicts[1].sounds);
        giveWay.renumber([](std::uint32_t emitter) { return std::optional(emitter - 1); });
        const Copy alone[] = {copyNumbered(1, -20.0)};
        giveWay.decide(1.0, alone, std::span(&limit, 1), verdicts);
        QVERIFY(!verdicts[0].sounds);
        QCOMPARE(verdicts[0].why.to, 0U);
        // A jump of the ears brings nobody back either; a new beginning does.
        giveWay.settle();
        giveWay.decide(1.1, alone, std::span(&limit, 1), verdicts);
        QVERIFY(!verdicts[0].sounds);
        giveWay.forget();
        giveWay.decide(0.0, alone, std::span(&limit, 1), verdicts);
        QVERIFY(verdicts[0].sounds);
    }

    /// The Ledger has a line for it, and its sum is what is heard: nothing.
    void theLedgerSaysToWhom()
    {
        Project project = twoLamps(1);
        const auto heardIn = [](const Project& p) {
            const HearingModel model(std::make_shared<const Project>(p), {"level"});
            return std::pair(model, model.hearAll(Ears{{-1, 0, 1.6}, 0, 0, 0}, TimeSpan::at(1.0)));
        };
        const auto [model, heard] = heardIn(project);
        QVERIFY(heard[0].audible && !heard[0].gaveWay);
        QVERIFY(!heard[1].audible && heard[1].gaveWay && std::isinf(heard[1].level_db));
        QCOMPARE(heard[1].level_db, heard[1].terms.total());
        QVERIFY(std::abs(heard[1].gaveWay->wouldBe_db + 20.0 * std::log10(7.0)) < 1e-9);
        const Term& last = *(heard[1].terms.end() - 1);
        QVERIFY(last.kind == TermKind::gaveWay);
        QCOMPARE(reasonOf(model, heard[1], last),
                 std::string("to \"left\", 1 at once of its sound \"tone\": the quietest gives way; it comes back when there "
                             "is room"));
        QCOMPARE(silencedBy(model, heard[1]), reasonOf(model, heard[1], last));
        QCOMPARE(model.hearOne(Moment(Ears{{-1, 0, 1.6}, 0, 0, 0}, TimeSpan::at(1.0)), 1).gaveWay, heard[1].gaveWay);
        // The same by a family's limit, and by the level's.
        project = twoLamps(0);
        Family lamps;
        lamps.id = {"lamps"};
        lamps.name = "Lamps";
        lamps.limit = {.atOnce = 1, .givesWay = GivesWay::farthest};
        project.families.put(lamps);
        for (const char* id : {"left", "right"}) {
            project = withEmitter(project, {"level"}, {id}, [](Emitter& e) { e.family = {"lamps"}; });
        }
        const auto [byFamily, member] = heardIn(project);
        QCOMPARE(silencedBy(byFamily, member[1]),
                 std::string("to \"left\", 1 at once of its family \"Lamps\": the farthest gives way; it comes back when there "
                             "is room"));
        project.families = {};
        project.voices = 1;
        project.voicesGiveWay = GivesWay::newest;
        const auto [byLevel, one] = heardIn(project);
        QVERIFY(silencedBy(byLevel, one[1]).find("1 at once in the level: the newest gives way") != std::string::npos);
    }

    /// Without a moment in mind what goes on for ever is there together, and too many of it give way as they do at a moment.
    void forEverTooManyGiveWay()
    {
        const auto sounding = [](const std::vector<Heard>& heard) {
            return std::count_if(heard.begin(), heard.end(), [](const Heard& one) { return one.audible; });
        };
        for (const int limit : {0, 1}) {
            const HearingModel model(std::make_shared<const Project>(twoLamps(limit)), {"level"});
            const Ears ears{{-1, 0, 1.6}, 0, 0, 0};
            const auto always = model.hearAll(ears, TimeSpan{});
            QCOMPARE(sounding(always), limit == 0 ? 2 : 1);
            QCOMPARE(sounding(always), sounding(model.hearAll(ears, TimeSpan::at(1.0))));
        }
    }

    /// In what comes out: one of two at a time, each where it would be, and no click as they change over.
    void whatComesBackMakesNoClick()
    {
        const auto limited = fixture::rendered(toAndFro(twoLamps(1), 6.0));
        const auto both = fixture::rendered(toAndFro(twoLamps(0), 6.0));
        QVERIFY(limited != both);
        // Close to one of the two, the other is softer than what a limit of one leaves by far.
        QVERIFY(std::abs(fixture::energy_db(limited, 0.45, 0.55) - fixture::energy_db(both, 0.45, 0.55)) < 1.5);
        // Never silent: one of them always sounds.
        for (double t = 0.1; t < 5.9; t += 0.05) {
            QVERIFY2(fixture::energy_db(limited, t, t + 0.02) > -35.0, qPrintable(QString::number(t)));
        }
        // A click would break off a tone of half of full scale.
        QVERIFY2(fixture::largestBreak(limited, 0) < 3.0 * fixture::largestBreak(both, 0),
                 qPrintable(QString("%1 %2").arg(fixture::largestBreak(limited, 0)).arg(fixture::largestBreak(both, 0))));
    }

    /// A stretch that is rendered by itself is that of the whole: who has given way before it has.
    void aStretchIsThatOfTheWhole()
    {
        Project project = fixture::projectWith({pointAt("hum", {2, 2, 1.6})});
        Sound shot = *project.sounds.find({"tone"});
        shot.id = {"shot"};
        shot.name = "shot";
        shot.loop = false;
        shot.limit.atOnce = 2;
        project.sounds.put(shot);
        Emitter sprinkle = pointAt("moths", {0, 3, 1.6});
        sprinkle.kind = EmitterKind::sprinkle;
        sprinkle.sound = {"shot"};
        sprinkle.sprinkling.least_s = 0.15;
        sprinkle.sprinkling.most_s = 0.4;
        sprinkle.sprinkling.nearest_m = 2.0;
        sprinkle.sprinkling.farthest_m = 9.0;
        sprinkle.sprinkling.atOnce = 9;
        project = withLevel(project, {"level"}, [&](Level& l) { l.emitters.put(sprinkle); });
        OfflineJob job = toAndFro(project, 6.0);
        const auto whole = fixture::rendered(job);
        for (const double from_s : {1.5, 3.1, 4.77}) {
            job.from_s = from_s;
            const auto part = fixture::rendered(job);
            const auto first = static_cast<std::size_t>(std::llround(from_s * 48'000.0)) * 2;
            QCOMPARE(part.size(), whole.size() - first);
            // What sounds already comes up from silence in the first step.
            const std::size_t settled = 2 * 2'048;
            for (std::size_t i = settled; i < part.size(); ++i) {
                QVERIFY2(std::abs(part[i] - whole[first + i]) < 1e-5F,
                         qPrintable(QString("%1 s + %2: %3, %4").arg(from_s).arg(i / 2).arg(part[i]).arg(whole[first + i])));
            }
        }
    }

    /// A limit on one sound leaves the others as they were, to the bit: their chance, times, places.
    void othersAreAsTheyWere()
    {
        Project project = twoLamps(0);
        Sound shot = *project.sounds.find({"tone"});
        shot.id = {"shot"};
        shot.name = "shot";
        shot.loop = false;
        shot.levelSpread_db = 6.0;
        shot.pitchSpread_st = 3.0;
        project.sounds.put(shot);
        Emitter sprinkle = pointAt("moths", {0, 3, 1.6});
        sprinkle.kind = EmitterKind::sprinkle;
        sprinkle.sound = {"shot"};
        sprinkle.sprinkling.least_s = 0.2;
        sprinkle.sprinkling.most_s = 0.7;
        sprinkle.sprinkling.nearest_m = 2.0;
        sprinkle.sprinkling.farthest_m = 6.0;
        sprinkle.sprinkling.atOnce = 8;
        project = withLevel(project, {"level"}, [&](Level& l) { l.emitters.put(sprinkle); });
        const auto soloed = [&](int atOnce, const char* which) {
            Project limited = project;
            Sound tone = *limited.sounds.find({"tone"});
            tone.limit.atOnce = atOnce;
            limited.sounds.put(tone);
            for (const char* other : {"left", "right", "moths"}) {
                if (std::string(other) != which) {
                    limited = withEmitter(limited, {"level"}, {other}, [](Emitter& e) { e.level_db = -250.0; });
                }
            }
            return fixture::rendered(toAndFro(limited, 5.0));
        };
        QVERIFY(soloed(0, "moths") == soloed(1, "moths"));
        QVERIFY(fixture::energy_db(soloed(0, "moths"), 0.0, 5.0) > -60.0);
        // The sprinkle under a limit of its own: what is left of it is some of what there was, where and when it was.
        std::map<std::uint64_t, std::pair<double, Vec3>> all;
        std::map<std::uint64_t, std::pair<double, Vec3>> left;
        const auto gather = [&](int atOnce, auto& into) {
            Project limited = project;
            shot.limit.atOnce = atOnce;
            limited.sounds.put(shot);
            OfflineJob job = toAndFro(limited, 20.0);
            job.heard = [&](std::uint64_t, std::span<const Heard> heard) {
                for (const Heard& one : heard) {
                    if (one.index == 2 && one.audible) {
                        into[one.start.number] = {one.start.began_s, *one.start.at};
                    }
                }
            };
            fixture::rendered(job);
        };
        gather(0, all);
        gather(1, left);
        QVERIFY(left.size() > 10 && left.size() + 5 < all.size());
        for (const auto& [number, start] : left) {
            QVERIFY(all.contains(number) && all[number] == start);
        }
    }
};

} // namespace tst_give_way

STONE_TEST(tst_give_way, TestGiveWay)
#include "tst_give_way.moc"
