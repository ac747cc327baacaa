// SPDX-License-Identifier: GPL-3.0-or-later
#include "analysis/decay.h"
#include "analysis/impulse_response.h"
#include "analysis/reverb_findings.h"
#include "dsp/gentle_shelves.h"
#include "dsp/octave_bands.h"
#include "dsp/uniform_convolver.h"
#include "hearing/echoed.h"
#include "hearing/reflections.h"
#include "project/read.h"
#include "project/write.h"
#include "support/one_of_many.h"
#include "support/two_rooms.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>
#include <set>

namespace tst_reverb
{

using namespace stone;
using namespace fixture;

namespace
{

constexpr double rate = 48'000.0;
constexpr double speed_m_s = speedOfSound_m_s;

/// A box of 6 x 5 x 3 m that gives back the same share in all bands, and nothing late.
Project bareBox(double rt60_s = 1.0)
{
    Project project = projectWith({});
    return withLevel(std::move(project), {"level"}, [&](Level& level) {
        Room room = boxRoom("box", {0, 0, 0}, {6, 5, 3});
        room.reverb.rt60_s.fill(rt60_s);
        room.reverb.late_db = -96.0;
        level.rooms.put(room);
    });
}

ImpulseResponse answerOf(const Project& project, const Vec3& ears, const Vec3& source,
                         const std::shared_ptr<const Ground>& ground = {}, std::vector<SharedResponse> responses = {},
                         int at = 48'000)
{
    const ImpulseQuestion question{.project = std::make_shared<const Project>(project),
                                   .level = {"level"},
                                   .ground = ground,
                                   .responses = std::move(responses),
                                   .ears = earsAt(ears),
                                   .source = source,
                                   .rate = at};
    return *impulseResponse(question, {});
}

/// All that arrives within a few frames of a time, as one pulse.
double pulseAt(const ImpulseResponse& response, double time_s, int around = 6)
{
    const auto middle = std::lround(time_s * rate);
    double sum = 0.0;
    for (long i = std::max(middle - around, 0L); i <= middle + around; ++i) {
        sum += static_cast<double>(response.interleaved[static_cast<std::size_t>(i)]);
    }
    return sum;
}

std::vector<float> dying(double rt60_s, double seconds, unsigned seed)
{
    std::mt19937 chance(seed);
    std::normal_distribution<float> gauss;
    std::vector<float> made(static_cast<std::size_t>(seconds * rate));
    for (std::size_t i = 0; i < made.size(); ++i) {
        made[i] = gauss(chance) * static_cast<float>(std::pow(10.0, -3.0 * static_cast<double>(i) / rate / rt60_s));
    }
    return made;
}

} // namespace

/// Single reflections, impulse responses as reverb, and how a decay is measured.
class TestReverb : public QObject
{
    Q_OBJECT

private slots:
    /// The loop's shelves in closed form against the analogue shelf that they are made from, and what a designer promises.
    void shelvesAnswerAsTheirFormula()
    {
        std::mt19937 chance(31);
        std::uniform_real_distribution<double> even(0.0, 1.0);
        for (const double at : {8'000.0, 22'050.0, 48'000.0, 192'000.0}) {
            for (int i = 0; i < 200; ++i) {
                gentle::Settings settings;
                settings.gain = static_cast<float>(0.2 + even(chance));
                for (float& shelf : settings.shelf) {
                    shelf = static_cast<float>(std::pow(10.0, even(chance) - 0.5));
                }
                const double hz = 20.0 * std::pow(0.49 * at / 20.0, even(chance));
                double wanted_db = 20.0 * std::log10(static_cast<double>(settings.gain));
                for (std::size_t shelf = 0; shelf < gentle::shelves; ++shelf) {
                    const double border = gentle::borderGain(shelf, at);
                    if (border == 0.0) {
                        continue;
                    }
                    const double a = std::sqrt(static_cast<double>(settings.shelf[shelf]));
                    const std::complex<double> s(0.0, std::tan(std::numbers::pi * hz / at) / border);
                    const std::complex<double> middle = std::sqrt(a) * std::numbers::sqrt2 * s;
                    wanted_db += 20.0 * std::log10(std::abs(a * (a * s * s + middle + 1.0) / (s * s + middle + a)));
                }
                const double got_db = gentle::Place(hz, at).response_db(settings);
                QVERIFY2(std::abs(got_db - wanted_db) < 1e-9, qPrintable(QString("%1 for %2").arg(got_db).arg(wanted_db)));
            }
        }
        const gentle::Designer designer(rate);
        const gentle::Levels_db levels{-1.0, -2.0, -4.0, -7.0, -10.0, -16.0, -20.0, -28.0};
        const gentle::Settings made = designer(levels);
        for (std::size_t band = 0; band < gentle::bands; ++band) {
            QVERIFY(std::abs(gentle::Place(bandCentre_hz(band), rate).response_db(made) - levels[band]) < 0.5);
        }
    }

    /// Against the sum itself, in double precision: -90 dB of what comes out.
    void convolutionIsTheSum()
    {
        const std::vector<float> response = dying(0.5, 0.13, 1); // 24.4 blocks
        const std::vector<float> input = dying(5.0, 0.2, 2);
        const UniformConvolver::Response spectra(response);
        UniformConvolver convolver(spectra.partitions());
        double off = 0.0;
        double all = 0.0;
        for (std::size_t from = 0; from + UniformConvolver::blockFrames <= input.size();
             from += UniformConvolver::blockFrames) {
            UniformConvolver::Block block;
            std::copy_n(input.begin() + static_cast<std::ptrdiff_t>(from), block.size(), block.begin());
            convolver.in(block);
            convolver.out(spectra, block);
            for (std::size_t i = 0; i < block.size(); ++i) {
                double sum = 0.0;
                for (std::size_t k = 0; k < std::min(response.size(), from + i + 1); ++k) {
                    sum += static_cast<double>(response[k]) * static_cast<double>(input[from + i - k]);
                }
                off += std::pow(static_cast<double>(block[i]) - sum, 2.0);
                all += sum * sum;
            }
        }
        const double off_db = 10.0 * std::log10(off / all);
        qInfo("%.1f dB off", off_db);
        QVERIFY2(off_db < -90.0, qPrintable(QString::number(off_db)));
    }

    /// In a box: the images of Allen and Berkley up to the second order, all of them and no others.
    void imagesAreThoseOfABox()
    {
        const Project project = bareBox();
        const HearingModel model(std::make_shared<const Project>(project), {"level"});
        const Vec3 source{1.2, -0.7, 1.1};
        const Vec3 ears{-1.7, 0.9, 1.6};
        Reflections::Scratch scratch;
        Reflections::Known known;
        std::vector<Reflection> found;
        model.reflections().find(ears, source, 0, {}, true, scratch, known, found);
        // Along an axis of length L with walls at a and a + L: 2 k L + s, and mirrored 2 a + 2 k L - s, with |2 k| and |2 k -
        // 1| bounces.
        const auto along = [](double s, double a, double length) {
            std::vector<std::pair<double, int>> places;
            for (int k = -1; k <= 1; ++k) {
                places.emplace_back(s + 2.0 * k * length, std::abs(2 * k));
                places.emplace_back(2.0 * a + 2.0 * k * length - s, std::abs(2 * k - 1));
            }
            return places;
        };
        std::vector<std::pair<Vec3, int>> expected;
        for (const auto& [x, bx] : along(source.x, -3, 6)) {
            for (const auto& [y, by] : along(source.y, -2.5, 5)) {
                for (const auto& [z, bz] : along(source.z, 0, 3)) {
                    if (bx + by + bz > 0 && bx + by + bz <= 2) {
                        expected.emplace_back(Vec3{x, y, z}, bx + by + bz);
                    }
                }
            }
        }
        QCOMPARE(found.size(), expected.size());
        std::set<std::uint32_t> names;
        for (const auto& [image, bounces] : expected) {
            const auto same = [&, at = image](const Reflection& r) { return glm::length(r.image - at) < 1e-9; };
            const auto reflection = std::find_if(found.begin(), found.end(), same);
            QVERIFY2(reflection != found.end(), qPrintable(QString("%1 %2 %3").arg(image.x).arg(image.y).arg(image.z)));
            QCOMPARE(reflection->bounces, bounces);
            QVERIFY(std::abs(reflection->length_m - glm::length(image - ears)) < 1e-9);
            names.insert(reflection->walls);
        }
        QCOMPARE(names.size(), found.size());
    }

    /// In the rendered response each arrives when its way says, over that way, less what its bounces take.
    void echoesArriveAsTheirImagesSay()
    {
        const Project project = bareBox();
        const Vec3 source{1.2, -0.7, 1.1};
        const Vec3 ears{-1.7, 0.9, 1.6};
        const ImpulseResponse response = answerOf(project, ears, source);
        const double direct_m = glm::length(source - ears);
        QVERIFY(std::abs(pulseAt(response, 0.0) * direct_m - 1.0) < 0.01);
        // The walls' mean absorption, 0.161 V / (T S).
        const double absorbed = 0.161 * 90.0 / (1.0 * 126.0);
        const auto expected = [&](const Vec3& image, int bounces) {
            return std::pow(1.0 - absorbed, bounces / 2.0) / glm::length(image - ears);
        };
        const auto checked = [&](const Vec3& image, int bounces) {
            const double late_s = (glm::length(image - ears) - direct_m) / speed_m_s;
            const double off_db = 20.0 * std::log10(pulseAt(response, late_s) / expected(image, bounces));
            return std::abs(off_db) < 0.5;
        };
        QVERIFY(checked({1.2, -0.7, -1.1}, 1));  // the floor
        QVERIFY(checked({4.8, -0.7, 1.1}, 1));   // the wall behind the source
        QVERIFY(checked({-10.8, -0.7, 1.1}, 2)); // both short walls, one after the other
        // In a doorway in the middle of the wall nothing comes back from it.
        const auto withDoor = withLevel(project, {"level"}, [](Level& level) {
            Opening door;
            door.id = {"door"};
            door.from = {3, -2};
            door.to = {3, 2};
            door.head_m = 2.8;
            level.openings.put(door);
        });
        const double late_s = (glm::length(Vec3{4.8, -0.7, 1.1} - ears) - direct_m) / speed_m_s;
        QVERIFY(std::abs(pulseAt(answerOf(withDoor, ears, source), late_s, 3)) < 0.02 * expected({4.8, -0.7, 1.1}, 1));
    }

    /// What the Ledger says of them is what the response has.
    void echoesAreToldAsTheySound()
    {
        Project project = bareBox();
        const Vec3 source{1.2, -0.7, 1.1};
        const Vec3 ears{-1.7, 0.9, 1.6};
        project = withLevel(std::move(project), {"level"}, [&](Level& level) {
            Emitter emitter = pointAt("a", source);
            emitter.placement.nearRange_m = 0.0;
            level.emitters.put(emitter);
        });
        const HearingModel model(std::make_shared<const Project>(project), {"level"});
        const Moment moment(earsAt(ears), now);
        const Echoed echoed = echoedAt(model, moment, model.hearOne(moment, 0));
        QCOMPARE(echoed.count, std::size_t(24));
        const double direct_m = glm::length(source - ears);
        QVERIFY(std::abs(echoed.first_s - (glm::length(Vec3{1.2, -0.7, -1.1} - ears) - direct_m) / speed_m_s) < 1e-9);
        const ImpulseResponse response = answerOf(project, ears, source);
        double energy = 0.0;
        for (std::size_t i = 20; i < response.interleaved.size(); ++i) {
            energy += std::pow(static_cast<double>(response.interleaved[i]), 2.0);
        }
        // Read between samples a pulse loses up to half of its energy, all of it at the top: below 2 kHz next to nothing.
        const double off_db = echoed.level_db - 10.0 * std::log10(energy);
        QVERIFY2(off_db > 0.0 && off_db < 3.0, qPrintable(QString::number(off_db)));
        const Moment elsewhere(earsAt({9, 0, 1.6}), now);
        QCOMPARE(echoedAt(model, elsewhere, model.hearOne(elsewhere, 0)).count, std::size_t(0));
    }

    /// Outside the level's own walls throw single echoes back, and nothing rings.
    void outsideWallsEcho()
    {
        Mesh mesh;
        mesh.materials = {"brick"};
        addBox(mesh, {-20, 17, 0}, {20, 17.5, 8});
        const auto wall = groundOf(mesh);
        addBox(mesh, {-20, 6, 0}, {20, 6.3, 8}); // something before it, which echoes too
        const auto hidden = groundOf(mesh);
        Project project = projectWith({});
        const Vec3 ears{0, 0, 1.6};
        const Vec3 source{2, 0, 1.6};
        QVERIFY(std::abs(pulseAt(answerOf(project, ears, source, wall), (std::hypot(2, 34) - 2.0) / speed_m_s)) <
                1e-6); // none are asked for
        project = withLevel(std::move(project), {"level"}, [](Level& level) { level.outside.echoes_db = 0.0; });
        const ImpulseResponse response = answerOf(project, ears, source, wall);
        const double way_m = std::hypot(2.0, 34.0);
        const double late_s = (way_m - 2.0) / speed_m_s;
        const double off_db = 20.0 * std::log10(pulseAt(response, late_s) * way_m) + 3.0; // half of it is scattered
        QVERIFY2(std::abs(off_db) < 0.5, qPrintable(QString::number(off_db)));
        double rest = 0.0;
        for (std::size_t i = 100; i < response.interleaved.size(); ++i) {
            const bool echo = std::abs(static_cast<double>(i) / rate - late_s) < 0.001;
            rest = std::max(rest, echo ? 0.0 : std::abs(static_cast<double>(response.interleaved[i])));
        }
        QVERIFY2(rest < 1e-6, qPrintable(QString::number(rest)));
        const ImpulseResponse before = answerOf(project, ears, source, hidden);
        QVERIFY(std::abs(pulseAt(before, late_s)) < 1e-6);
        QVERIFY(pulseAt(before, (std::hypot(2.0, 12.0) - 2.0) / speed_m_s) > 0.05);
    }

    /// A decay that is known: noise that dies away by 60 dB in a time.
    void decaysAreMeasured()
    {
        const double rt60_s = 0.8;
        std::vector<float> response = dying(rt60_s, 1.6, 3);
        response.insert(response.begin(), 480, 0.0F);
        const DecayReport report = analyseDecay(response, 1, rate);
        QVERIFY(std::abs(report.begins_s - 0.01) < 0.002);
        for (std::size_t band = 1; band < report.bands.size(); ++band) {
            const Decay& decay = report.bands[band];
            QVERIFY(decay.t20_s && decay.t30_s && decay.edt_s);
            // Narrow bands of noise waver: the fewer cycles, the more.
            const double allowed = band < 3 ? 0.15 : 0.06;
            QVERIFY2(std::abs(*decay.t30_s / rt60_s - 1.0) < allowed,
                     qPrintable(QString("%1: %2").arg(band).arg(*decay.t30_s)));
        }
        QVERIFY(std::abs(*report.all.t30_s / rt60_s - 1.0) < 0.02);
        QVERIFY(std::abs(*report.all.edt_s / rt60_s - 1.0) < 0.05);
        // All of an exponential that comes in the first 50 ms over what is left.
        const double c50_db = 10.0 * std::log10(std::exp(6.0 * std::numbers::ln10 * 0.05 / rt60_s) - 1.0);
        QVERIFY2(std::abs(report.all.c50_db - c50_db) < 0.3,
                 qPrintable(QString("%1, not %2").arg(report.all.c50_db).arg(c50_db)));
        // Two channels that are alike have twice the energy and the same decay; silence has none.
        std::vector<float> both;
        for (const float sample : response) {
            both.insert(both.end(), {sample, sample});
        }
        const DecayReport twice = analyseDecay(both, 2, rate);
        QVERIFY(std::abs(twice.all.level_db - report.all.level_db - 3.01) < 0.01 && twice.all.t20_s == report.all.t20_s);
        QVERIFY(!analyseDecay(std::vector<float>(4800), 1, rate).all.t20_s);
        // Single echoes are a stair, not a decay.
        std::vector<float> stair(48'000);
        stair[100] = 1.0F;
        stair[4'000] = 0.05F;
        stair[20'000] = 0.03F;
        const DecayReport steps = analyseDecay(stair, 1, rate);
        QVERIFY(!steps.all.t20_s && !steps.all.t30_s);
    }

    /// A room with a response answers by it, as loudly as one with a network of its decay would.
    void aRoomAnswersByItsResponse()
    {
        Project project = bareBox(0.6);
        const auto with = [&](Tail tail, double preDelay_ms) {
            return withLevel(project, {"level"}, [&](Level& level) {
                Room room = *level.rooms[0];
                room.reverb.tail = tail;
                room.reverb.early_db = -96.0;
                room.reverb.late_db = 0.0;
                room.reverb.preDelay_ms = preDelay_ms;
                level.rooms.put(room);
            });
        };
        auto response = std::make_shared<SampleBuffer>();
        response->channels.push_back(dying(0.6, 1.2, 4));
        response->channels.push_back(dying(0.6, 1.2, 5));
        const Vec3 ears{1, 1, 1.6};
        const Vec3 source{-1.5, -1, 1.2};
        const auto convolved = answerOf(with(Tail::response, 20.0), ears, source, {}, {RoomResponse::of(response)});
        const auto worked = answerOf(with(Tail::network, 20.0), ears, source);
        const auto tailOf = [](const ImpulseResponse& r) {
            return std::vector<float>(r.interleaved.begin() + 480, r.interleaved.end());
        };
        const DecayReport a = analyseDecay(tailOf(convolved), 1, rate);
        const DecayReport b = analyseDecay(tailOf(worked), 1, rate);
        QVERIFY2(a.all.t20_s && std::abs(*a.all.t20_s / 0.6 - 1.0) < 0.05,
                 qPrintable(QString::number(a.all.t20_s.value_or(0))));
        // The level of both is set at 1 kHz.
        QVERIFY2(std::abs(a.bands[4].level_db - b.bands[4].level_db) < 1.5,
                 qPrintable(QString("%1, %2").arg(a.bands[4].level_db).arg(b.bands[4].level_db)));
        // Nothing late before it begins; the first of the response is there to the frame.
        QVERIFY(std::abs(pulseAt(convolved, 0.015)) < 1e-6);
        const auto first = static_cast<std::size_t>(0.02 * rate);
        QVERIFY(std::abs(convolved.interleaved[first - 1]) < 1e-6F && std::abs(convolved.interleaved[first]) > 1e-4F);
        // Without a file that can be read there is no answer, and a finding.
        QVERIFY(analyseDecay(tailOf(answerOf(with(Tail::response, 20.0), ears, source)), 1, rate).all.level_db < -100.0);
    }

    /// The same response is as loud at every rate, and one that is dull as loud at 1 kHz as one that is not.
    void responsesAreAsLoudAtEveryRate()
    {
        const auto ringing = [](int at, double dullness) {
            auto buffer = std::make_shared<SampleBuffer>();
            buffer->rate = at;
            std::vector<float> samples(static_cast<std::size_t>(at / 2));
            for (std::size_t i = 0; i < samples.size(); ++i) {
                const double t = static_cast<double>(i) / at;
                double x = 0.0;
                for (const double hz : {200.0, 890.0, 1'000.0, 1'130.0, 3'000.0}) {
                    x += std::sin(2.0 * std::numbers::pi * hz * t) * (hz > 2'000.0 ? dullness : 1.0);
                }
                samples[i] = static_cast<float>(0.1 * x * std::exp(-t / 0.05));
            }
            buffer->channels.push_back(std::move(samples));
            return RoomResponse(buffer);
        };
        const double usual = ringing(48'000, 1.0).power(0);
        for (const int at : {8'000, 22'050, 44'100, 96'000, 192'000}) {
            // As samples the same sound is so much stronger as they lie closer.
            const double ratio = ringing(at, 1.0).power(0) / usual / std::pow(at / 48'000.0, 2.0);
            QVERIFY2(std::abs(10.0 * std::log10(ratio)) < 0.1, qPrintable(QString("%1: %2").arg(at).arg(ratio)));
        }
        QVERIFY(std::abs(10.0 * std::log10(ringing(48'000, 0.1).power(0) / usual)) < 0.1);
    }

    /// Networks decay in a room of the engine as they were set, with everything that is between.
    void roomsDecayAsSet_data()
    {
        QTest::addColumn<int>("at");
        for (const int at : {8'000, 11'025, 16'000, 22'050, 32'000, 44'100, 48'000, 88'200, 96'000, 176'400, 192'000}) {
            QTest::addRow("%d Hz", at) << at;
        }
    }

    void roomsDecayAsSet()
    {
        QFETCH(int, at);
        Project project = bareBox();
        project = withLevel(std::move(project), {"level"}, [&](Level& level) {
            Room room = *level.rooms[0];
            room.reverb.rt60_s = {1.4, 1.8, 2.2, 2.4, 2.4, 2.1, 1.5, 0.8};
            room.reverb.late_db = 0.0;
            level.rooms.put(room);
        });
        const ImpulseResponse response = answerOf(project, {1, 1, 1.6}, {-1.5, -1, 1.2}, {}, {}, at);
        const DecayReport report = analyseDecay(response.interleaved, 1, at);
        for (std::size_t band = 0; band < 8 && 62.5 * std::exp2(static_cast<double>(band) + 0.5) < at / 3.0; ++band) {
            const double set = project.levels[0]->rooms[0]->reverb.rt60_s[band];
            const double allowed = band == 0 || band == 7 ? 0.1 : 0.07;
            QVERIFY2(std::abs(report.bands[band].t30_s.value_or(0.0) / set - 1.0) < allowed,
                     qPrintable(QString("%1: %2, not %3").arg(band).arg(report.bands[band].t30_s.value_or(0.0)).arg(set)));
        }
    }

    /// A bed goes into its room's reverb only if it says so; by how much, as rendered, is what the model says.
    void bedsAreAnsweredIfTheySaySo()
    {
        const auto heardWith = [&](bool answered) {
            Emitter bed = pointAt("bed", {0, 0, 0});
            bed.kind = EmitterKind::bed;
            bed.placement.roomsAnswer = answered;
            Project project = projectWith({bed});
            project = withLevel(std::move(project), {"level"}, [&](Level& level) {
                Room room = boxRoom("box", {0, 0, 0}, {6, 5, 3});
                room.reverb.rt60_s.fill(1.0);
                room.reverb.late_db = 0.0;
                room.reverb.early_db = -96.0;
                level.rooms.put(room);
            });
            OfflineJob job;
            job.scene = sceneOf(project, noise());
            job.to_s = 6.0;
            job.ears = [](double) { return Pose{{1, 1, 0}, 0.0}; };
            const std::vector<float> out = rendered(job);
            std::vector<Heard> heard;
            HearScratch scratch;
            job.scene->model.hear(Moment(earsAt({1, 1, 0}), now), heard, scratch);
            return std::pair(energy_db(out, 3.0, 6.0), heard.at(0));
        };
        const auto [dry_db, dry] = heardWith(false);
        const auto [wet_db, wet] = heardWith(true);
        QVERIFY(dry.reverb_db < -199.0 && dry.given_db < -199.0);
        QCOMPARE(wet.level_db, dry.level_db);
        QVERIFY(wet.reverb_db > -20.0);
        // Unlike the bed itself, so the powers add.
        const double expected_db =
            10.0 * std::log10(std::pow(10.0, wet.reverb_db / 10.0) + std::pow(10.0, wet.level_db / 10.0)) - dry.level_db;
        QVERIFY2(std::abs(wet_db - dry_db - expected_db) < 1.0,
                 qPrintable(QString("%1 dB more, %2 dB expected").arg(wet_db - dry_db).arg(expected_db)));
        QVERIFY(wet_db - dry_db > 0.5);
    }

    void slipsOfReverb()
    {
        QTemporaryDir folder;
        SoundBank bank(48'000);
        const auto codes = [&](const Project& project, const std::shared_ptr<const Ground>& ground = {}) {
            const std::vector<ReadNotice> notices;
            const std::vector<LevelGeometry> geometry;
            const Examined examined{project, notices, geometry, bank, filesInside(folder.path().toStdString())};
            std::vector<Finding> found;
            const Level& level = *project.levels[0];
            findInReverb(examined, level, RoomMap(level), ground.get(), found);
            std::string text;
            Project mended = project;
            for (const Finding& finding : found) {
                text += finding.code + ' ';
                for (const Remedy& remedy : finding.remedies) {
                    mended = remedy.apply(std::move(mended));
                }
            }
            return std::pair(text, mended);
        };
        const TwoRooms rooms;
        QCOMPARE(codes(rooms.project, rooms.ground).first, std::string());

        TwoRooms missing;
        missing.change([](Level& level) {
            Room room = *level.rooms[0];
            room.reverb.tail = Tail::response;
            room.reverb.response = "gone.wav";
            level.rooms.put(room);
        });
        const auto [code, mended] = codes(missing.project, missing.ground);
        QCOMPARE(code, std::string("response-missing "));
        QCOMPARE(codes(mended, missing.ground).first, std::string());

        TwoRooms bare;
        bare.change([](Level& level) {
            Room room = *level.rooms[0];
            room.reverb.tail = Tail::none;
            level.rooms.put(room);
            level.outside.echoes_db = 0.0;
        });
        QCOMPARE(codes(bare.project, bare.ground).first, std::string());
        const auto wanting = codes(bare.project);
        QCOMPARE(wanting.first, std::string("echoes-without-walls echoes-without-walls "));
        QVERIFY(wanting.second.levels[0]->rooms[0]->reverb.tail == Tail::network);

        Mesh yard;
        yard.materials = {"brick"};
        addBox(yard, {-9, -5, -0.3}, {9, 5, 0});
        const auto open = codes(rooms.project, groundOf(yard));
        QCOMPARE(open.first, std::string("room-open-sky room-open-sky "));
        QVERIFY(open.second.levels[0]->rooms[0]->reverb.tail == Tail::none);

        TwoRooms through;
        through.change([](Level& level) {
            Walk walk{{"walk"}, "walk", {{0, {-4, 0, 0}, {}, 0, {}}, {4, {4, 0, 0}, {}, 0, {}}}, {}, {}};
            level.walks.put(walk);
        });
        QCOMPARE(codes(through.project, through.ground).first, std::string());
        through.change([](Level& level) {
            level.openings = {};
            Room room = *level.rooms[0];
            room.at.x = -4.0; // no wall between: from one straight into the other
            level.rooms.put(room);
            room = *level.rooms[1];
            room.at.x = 4.0;
            level.rooms.put(room);
        });
        QCOMPARE(codes(through.project, through.ground).first, std::string("reverb-jumps "));

        TwoRooms dry;
        dry.change([](Level& level) {
            Emitter emitter = *level.emitters[0];
            Lane send;
            send.property = LaneProperty::send;
            send.over = LaneInput::offFront;
            send.shape = LaneShape::curve;
            send.curve = {{0, -96}, {180, -80}};
            emitter.lanes = {send};
            level.emitters.put(emitter);
        });
        const auto left = codes(dry.project, dry.ground);
        QCOMPARE(left.first, std::string("emitter-dry "));
        QCOMPARE(codes(left.second, dry.ground).first, std::string());
    }

    void reverbsAreReadAndWritten()
    {
        const std::string text = R"({"stone_echo": 8, "name": "x", "levels": [{"id": "l", "outside": {"echoes_db": -3},
            "rooms": [{"id": "r", "reverb": {"tail": "response", "response": "responses/a.wav", "early_db": -6}},
                      {"id": "s", "reverb": {"tail": "none"}}]}]})";
        const Project read = readProjectText(text, "x").project;
        const Level& level = *read.levels[0];
        QVERIFY(level.outside.echoes_db == -3.0);
        QVERIFY(level.rooms[0]->reverb.tail == Tail::response && level.rooms[0]->reverb.response == "responses/a.wav");
        QVERIFY(level.rooms[0]->reverb.early_db == -6.0 && level.rooms[1]->reverb.tail == Tail::none);
        QVERIFY(readProjectText(projectText(read), "x").project == read);
        for (const char* bad : {R"("rooms": [{"reverb": {"tail": "some"}}])", R"("outside": {"echoes_db": 30})"}) {
            QVERIFY_EXCEPTION_THROWN(readProjectText(std::string(R"({"levels": [{"id": "l", )") + bad + "}]}", "x"), FileError);
        }
    }
};

} // namespace tst_reverb

STONE_TEST(tst_reverb, TestReverb)
#include "tst_reverb.moc"
