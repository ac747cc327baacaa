// SPDX-License-Identifier: GPL-3.0-or-later
#include "acoustics/room_estimate.h"
#include "acoustics/wall_loss.h"
#include "analysis/room_findings.h"
#include "analysis/room_survey.h"
#include "dsp/late_network.h"
#include "engine/scene.h"
#include "project/read.h"
#include "project/write.h"
#include "support/boxes.h"
#include "support/csv.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "support/two_rooms.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <random>
#include <set>

namespace tst_rooms
{

using namespace stone;
using namespace fixture;

namespace
{

constexpr double rate = 48'000.0;

/// The energies of a network's outputs, frame by frame, after one pulse; by output.
std::vector<std::vector<double>> answerOf(const LateNetwork::Design& design, double seconds)
{
    LateNetwork network(rate);
    LateNetwork::Block in{};
    in[0] = 1.0F;
    std::array<LateNetwork::Block, LateNetwork::outputs> out;
    std::vector<std::vector<double>> all(LateNetwork::outputs);
    for (double t = 0.0; t < seconds; t += LateNetwork::blockFrames / rate) {
        network.process(in, design, out);
        in = {};
        for (std::size_t output = 0; output < out.size(); ++output) {
            all[output].insert(all[output].end(), out[output].begin(), out[output].end());
        }
    }
    return all;
}

using Spectrum = std::vector<std::complex<double>>;

/// A Fourier transform of a power of two, in place; back with `sign` 1, not scaled.
void transform(Spectrum& a, double sign)
{
    const std::size_t n = a.size();
    std::vector<std::complex<double>> turns(n / 2);
    for (std::size_t k = 0; k < n / 2; ++k) {
        turns[k] = std::polar(1.0, sign * 2.0 * std::numbers::pi * static_cast<double>(k) / static_cast<double>(n));
    }
    for (std::size_t i = 1, j = 0; i < n; ++i) {
        std::size_t bit = n >> 1;
        for (; j & bit; bit >>= 1) {
            j ^= bit;
        }
        j ^= bit;
        if (i < j) {
            std::swap(a[i], a[j]);
        }
    }
    for (std::size_t length = 2; length <= n; length *= 2) {
        const std::size_t stride = n / length;
        for (std::size_t from = 0; from < n; from += length) {
            for (std::size_t k = 0; k < length / 2; ++k) {
                const auto even = a[from + k];
                const auto odd = a[from + k + length / 2] * turns[k * stride];
                a[from + k] = even + odd;
                a[from + k + length / 2] = even - odd;
            }
        }
    }
}

Spectrum spectrumOf(const std::vector<double>& x)
{
    std::size_t n = 1;
    while (n < x.size() * 5 / 4) {
        n *= 2;
    }
    Spectrum spectrum(n);
    std::copy(x.begin(), x.end(), spectrum.begin());
    transform(spectrum, -1.0);
    return spectrum;
}

/// An octave of a signal, by smooth edges in frequency: its squares, as many as asked for.
std::vector<double> octaveSquares(Spectrum spectrum, double centre_hz, std::size_t count)
{
    const std::size_t n = spectrum.size();
    for (std::size_t k = 0; k <= n / 2; ++k) {
        const double off =
            std::abs(std::log2(std::max(static_cast<double>(k), 0.5) * rate / static_cast<double>(n) / centre_hz));
        const double keep = off < 0.3 ? 1.0 : off < 0.55 ? 0.5 + 0.5 * std::cos(std::numbers::pi * (off - 0.3) / 0.25) : 0.0;
        spectrum[k] *= keep;
        if (k > 0 && k < n / 2) {
            spectrum[n - k] *= keep;
        }
    }
    transform(spectrum, 1.0);
    std::vector<double> squares(count);
    for (std::size_t i = 0; i < count; ++i) {
        squares[i] = std::pow(spectrum[i].real() / static_cast<double>(n), 2.0);
    }
    return squares;
}

/// T30 by backward integration (Schroeder 1965; ISO 3382-1): twice the time from -5 to -35 dB.
double t30_s(const std::vector<double>& squares)
{
    std::vector<double> left(squares.size() + 1, 0.0);
    for (std::size_t i = squares.size(); i-- > 0;) {
        left[i] = left[i + 1] + squares[i];
    }
    const auto at = [&](double db) {
        const auto found =
            std::find_if(left.begin(), left.end(), [&](double e) { return 10.0 * std::log10(e / left[0] + 1e-300) < db; });
        return static_cast<double>(found - left.begin()) / rate;
    };
    return 2.0 * (at(-35.0) - at(-5.0));
}

double shareOf(const std::vector<RoomHeard>& rooms, std::uint32_t room)
{
    for (const RoomHeard& heard : rooms) {
        if (heard.room == room) {
            return heard.share();
        }
    }
    return 0.0;
}

} // namespace

/// Rooms, their late fields, and what goes through openings.
class TestRooms : public QObject
{
    Q_OBJECT

private slots:
    /// Every preset's octaves decay as they are set: within 5 % from 125 Hz to 4 kHz, 10 % at the ends; and the level is that
    /// of a diffuse field.
    void decaysAreAsSet_data()
    {
        QTest::addColumn<int>("point");
        QTest::addColumn<double>("volume_m3");
        for (int i = 0; i < static_cast<int>(reverbPoints().size()); ++i) {
            static constexpr double volumes[] = {60, 90, 300, 6000, 900, 2500};
            QTest::newRow(reverbPoints()[static_cast<std::size_t>(i)].name) << i << volumes[i];
        }
    }
    void decaysAreAsSet()
    {
        QFETCH(int, point);
        QFETCH(double, volume_m3);
        const BandValues& rt60 = reverbPoints()[static_cast<std::size_t>(point)].reverb.rt60_s;
        const auto design = LateNetwork::design(rt60, volume_m3, 0.0, rate);
        const auto outputs = answerOf(design, 1.3 * *std::max_element(rt60.begin(), rt60.end()));
        // Three of them are enough to even out what is chance.
        constexpr std::size_t looked = 3;
        std::vector<Spectrum> spectra;
        for (std::size_t output = 0; output < looked; ++output) {
            spectra.push_back(spectrumOf(outputs[output]));
        }
        double energy = 0.0;
        for (std::size_t band = 0; band < 8; ++band) {
            const double centre_hz = 62.5 * std::exp2(static_cast<double>(band));
            std::vector<double> squares(outputs[0].size(), 0.0);
            for (const Spectrum& spectrum : spectra) {
                const std::vector<double> more = octaveSquares(spectrum, centre_hz, squares.size());
                std::transform(squares.begin(), squares.end(), more.begin(), squares.begin(), std::plus<>());
            }
            const double off = t30_s(squares) / rt60[band] - 1.0;
            qInfo("%5.0f Hz: set %.2f s, measured %+.1f %%", centre_hz, rt60[band], 100.0 * off);
            QVERIFY2(std::abs(off) < (band == 0 || band == 7 ? 0.10 : 0.05),
                     qPrintable(QString("%1 Hz %2").arg(centre_hz).arg(off)));
            if (band == 4) {
                energy = std::accumulate(squares.begin(), squares.end(), 0.0) * LateNetwork::surround / looked;
            }
        }
        // Near 1 kHz: 16 pi / A, as the octave's share of all frequencies, with the edges of octaveSquares (their squares).
        const double wanted = 16.0 * std::numbers::pi * rt60[4] / (0.161 * volume_m3);
        const double width_hz = 1000.0 * (std::exp2(0.3) - std::exp2(-0.3)) + 1000.0 * 0.25 * std::numbers::ln2 * 2.0 * 0.375;
        const double level = 10.0 * std::log10(energy / (wanted * width_hz / (rate / 2.0)));
        QVERIFY2(std::abs(level) < 1.5, qPrintable(QString::number(level)));
    }

    /// A room has the same lines at every rate, as nearly as whole frames allow: modes, and with them the level of a tone,
    /// stay.
    void linesAreAsLongAtEveryRate()
    {
        for (const double volume_m3 : {60.0, 500.0, 4'000.0}) {
            BandValues rt60;
            rt60.fill(volume_m3 < 100.0 ? 0.5 : 1.8);
            const auto usual = LateNetwork::design(rt60, volume_m3, 0.02, 48'000.0);
            for (const double at : {16'000.0, 22'050.0, 44'100.0, 88'200.0, 96'000.0, 192'000.0}) {
                const auto design = LateNetwork::design(rt60, volume_m3, 0.02, at);
                std::set<std::uint32_t> different;
                for (std::size_t line = 0; line < LateNetwork::lines; ++line) {
                    const double frames = usual.delays[line] * at / 48'000.0;
                    const bool longEnough = frames > LateNetwork::blockFrames + 1;
                    QVERIFY2(!longEnough || std::abs(design.delays[line] - frames) <= 1.0,
                             qPrintable(
                                 QString("line %1 at %2: %3, not %4").arg(line).arg(at).arg(design.delays[line]).arg(frames)));
                    QVERIFY(design.delays[line] > LateNetwork::blockFrames);
                    different.insert(design.delays[line]);
                }
                QCOMPARE(different.size(), LateNetwork::lines);
                QVERIFY(std::abs(20.0 * std::log10(design.gain / usual.gain)) < 0.05 || at < 20'000.0);
            }
        }
    }

    /// Echoes are dense: after 100 ms the late field is as Gaussian noise (J. Abel and P. Huang, AES 121, 2006: the share of
    /// samples beyond a standard deviation over that of a Gaussian); and nothing rings: no line of its spectrum stands out
    /// further than those of noise do.
    void tailsAreDenseAndDoNotRing()
    {
        const auto design = LateNetwork::design(BandValues{1.5, 1.5, 1.5, 1.5, 1.5, 1.5, 1.5, 1.5}, 500.0, 0.0, rate);
        const auto outputs = answerOf(design, 2.0);
        const auto density = [&](double from_s) {
            const auto first = static_cast<std::size_t>(from_s * rate);
            const std::size_t n = 1200; // 25 ms
            double squares = 0.0;
            for (std::size_t i = first; i < first + n; ++i) {
                squares += outputs[0][i] * outputs[0][i];
            }
            const double deviation = std::sqrt(squares / n);
            const auto beyond = std::count_if(outputs[0].begin() + static_cast<std::ptrdiff_t>(first),
                                              outputs[0].begin() + static_cast<std::ptrdiff_t>(first + n),
                                              [&](double x) { return std::abs(x) > deviation; });
            return static_cast<double>(beyond) / n / std::erfc(1.0 / std::sqrt(2.0));
        };
        qInfo("echo density %.2f at 50 ms, %.2f at 100 ms, %.2f at 200 ms", density(0.05), density(0.1), density(0.2));
        QVERIFY(density(0.1) > 0.8 && density(0.2) > 0.9);
        // The tail, with its decay taken back out, in bins of 1.5 Hz: of 4,000 lines of noise the strongest stands 9 to 11 dB
        // over the mean.
        const std::size_t n = 1U << 15U;
        std::vector<std::complex<double>> tail(n);
        for (std::size_t i = 0; i < n; ++i) {
            const double t = static_cast<double>(i) / rate;
            const double window = std::pow(std::sin(std::numbers::pi * static_cast<double>(i) / n), 2.0);
            tail[i] = outputs[0][i + 9600] * std::pow(10.0, 3.0 * t / 1.5) * window;
        }
        transform(tail, -1.0);
        double mean = 0.0;
        double most = 0.0;
        constexpr std::size_t lines = 4000;
        for (std::size_t k = 200; k < 200 + lines; ++k) {
            mean += std::norm(tail[k]) / lines;
            most = std::max(most, std::norm(tail[k]));
        }
        const double crest = 10.0 * std::log10(most / mean);
        qInfo("strongest line of the tail: %.1f dB over the mean", crest);
        QVERIFY2(crest < 14.0, qPrintable(QString::number(crest)));
    }

    void estimatesAreSabinesAndEyrings()
    {
        int rows = 0;
        for (const CsvRow& row : readCsv("09_reverb_time.csv")) {
            const double x = row.number("lx_m");
            const double y = row.number("ly_m");
            const double z = row.number("lz_m");
            std::vector<RoomSurface> surfaces;
            const auto add = [&](double area_m2, const char* column) {
                Bands all;
                all.fill(row.number(column));
                surfaces.push_back({area_m2, all});
            };
            add(x * y, "a_floor");
            add(x * y, "a_ceiling");
            add(y * z, "a_x0");
            add(y * z, "a_x1");
            add(x * z, "a_y0");
            add(x * z, "a_y1");
            Bands air;
            air.fill(row.number("m_per_m") * 10.0 * std::numbers::log10e);
            QVERIFY(std::abs(sabine_s(x * y * z, surfaces, air)[0] / row.number("sabine_s") - 1.0) < 0.002);
            QVERIFY(std::abs(eyring_s(x * y * z, surfaces, air)[0] / row.number("eyring_s") - 1.0) < 0.002);
            QVERIFY(std::abs(eyring_s(x * y * z, surfaces, {})[0] / row.number("eyring_noair_s") - 1.0) < 0.002);
            ++rows;
        }
        QVERIFY(rows > 20);
    }

    /// Rays that look round a box find its volume, its surface and what it is made of; a hole counts as open.
    void aRoomIsSurveyed()
    {
        TwoRooms rooms(2.0);
        const auto survey = surveyRoom(rooms.project, *rooms.project.levels[0]->rooms[0], *rooms.ground);
        QVERIFY(survey.has_value());
        const double surface = 2 * 8 * 8 + 4 * 8 * 4;
        QVERIFY2(std::abs(survey->surface_m2 / surface - 1.0) < 0.05, qPrintable(QString::number(survey->surface_m2)));
        const double hole = 2.0 * 2.1 / surface;
        QVERIFY2(std::abs(survey->open_share - hole) < 0.01, qPrintable(QString::number(survey->open_share)));
        QVERIFY(survey->parts.size() == 1 && survey->parts[0].material.find("Brick") == 0);
        // Shut, it is as the formula has it for the true area.
        TwoRooms shut(0.02);
        const auto closed = surveyRoom(shut.project, *shut.project.levels[0]->rooms[0], *shut.ground);
        const RoomSurface walls[] = {{surface, materialOf({}, {}, "brick").material->absorption}};
        const Bands expected = eyring_s(256.0, walls, airLoss_db_m(shut.project.air));
        for (std::size_t band = 0; band < 8; ++band) {
            QVERIFY2(std::abs(closed->eyring_s[band] / expected[band] - 1.0) < 0.05,
                     qPrintable(QString("%1, not %2").arg(closed->eyring_s[band]).arg(expected[band])));
        }
    }

    void slipsOfRooms()
    {
        const auto codes = [](const TwoRooms& rooms) {
            std::vector<Finding> found;
            const Level& level = *rooms.project.levels[0];
            findInRooms(rooms.project, level, RoomMap(level), found);
            std::string text;
            for (const Finding& finding : found) {
                text += finding.code + ' ';
            }
            return text;
        };
        QCOMPARE(codes(TwoRooms()), std::string());
        TwoRooms cut;
        cut.change([](Level& l) { l.rooms.put(boxRoom("third", {1, 1, 0}, {6, 6, 4})); });
        QVERIFY(codes(cut).find("rooms-overlap") != std::string::npos);
        TwoRooms booth;
        booth.change([](Level& l) { l.rooms.put(boxRoom("booth", {5, 1, 0}, {2, 2, 2})); });
        QCOMPARE(codes(booth), std::string());
        TwoRooms astray;
        astray.change([](Level& l) {
            Opening opening = *l.openings[0];
            opening.from = {2, 0};
            opening.to = {3, 0};
            opening.follows = {"nothing"};
            opening.closesOn = {"nobody"};
            l.openings.put(opening);
        });
        QCOMPARE(codes(astray), std::string("opening-joins-nothing opening-value-gone opening-signal-gone "));
        TwoRooms flat;
        flat.change([](Level& l) { l.rooms.put(boxRoom("flat", {30, 0, 0}, {1, 1, 0.01})); });
        QCOMPARE(codes(flat), std::string("room-empty "));
    }

    /// Whatever is asked for, nothing comes back louder, on the way from one decay to another neither: an impulse dies away.
    void networksAreStable()
    {
        std::mt19937 chance(3);
        std::uniform_real_distribution<double> octaves(std::log2(0.05), std::log2(30.0));
        for (int round = 0; round < 12; ++round) {
            std::vector<LateNetwork::Design> designs;
            for (int i = 0; i < 3; ++i) {
                BandValues rt60{};
                std::generate(rt60.begin(), rt60.end(), [&] { return std::exp2(octaves(chance)); });
                designs.push_back(LateNetwork::design(rt60, 500.0, 0.0, rate));
                designs.back().delays = designs.front().delays;
            }
            LateNetwork network(rate);
            LateNetwork::Block in{};
            in[0] = 1.0F;
            std::array<LateNetwork::Block, LateNetwork::outputs> out;
            float most = 0.0F;
            for (int block = 0; block < 600; ++block) {
                network.process(in, designs[static_cast<std::size_t>(block / 10 % 3)], out);
                in = {};
                most = block < 60 ? std::max(most, network.energy()) : most;
                QVERIFY2(std::isfinite(network.energy()) && network.energy() <= 4.0F * most,
                         qPrintable(QString("%1 after %2").arg(network.energy()).arg(most)));
            }
        }
    }

    /// Networks come with the scene: of what did not change the same ones, of rooms that ask for the same one for both, none
    /// made for a response.
    void networksAreTakenOver()
    {
        const TwoRooms rooms;
        const auto networks = networksOf(rooms.model(), 48'000, {});
        QCOMPARE(networks.size(), std::size_t{2});
        QCOMPARE(networks[0], networks[1]);
        TwoRooms edited = rooms;
        edited.change([](Level& level) {
            Room east = *level.rooms[1];
            east.reverb.rt60_s.fill(3.0);
            level.rooms.put(east);
        });
        const auto after = networksOf(edited.model(), 48'000, networks);
        QCOMPARE(after[0], networks[0]);
        QVERIFY(after[1] != networks[1]);
        QCOMPARE(after[1]->asked.rt60_s[4], 3.0);
        QVERIFY(networksOf(rooms.model(), 44'100, networks)[0] != networks[0]);
        edited.change([](Level& level) {
            Room east = *level.rooms[1];
            east.reverb.tail = Tail::response;
            level.rooms.put(east);
        });
        QVERIFY(!networksOf(edited.model(), 48'000, after)[1]);
    }

    /// What was made for another rate is not played: it would ring at other pitches.
    void networksOfAnotherRateAreSilent()
    {
        const TwoRooms rooms(1.0, {-4, 0, 1.6});
        auto scene = fixture::sceneOf(rooms.project, {noise()}, rooms.ground);
        const auto tailOf = [](const std::shared_ptr<Scene>& of) {
            OfflineJob job;
            job.scene = of;
            job.to_s = 1.0;
            job.ears = [](double) { return Pose{{-4, 2, 1.6}}; };
            return rms_db(rendered(job), 0, 0.5, 1.0, 2);
        };
        const double with = tailOf(scene);
        auto strange = std::make_shared<Scene>(*scene);
        strange->networks = networksOf(scene->model, 44'100, {});
        auto without = std::make_shared<Scene>(*scene);
        without->networks.clear();
        QCOMPARE(tailOf(strange), tailOf(without));
        QVERIFY2(with > tailOf(without) + 1.0, qPrintable(QString("%1 dB").arg(with - tailOf(without))));
    }

    /// The smallest room counts; in the thickness of a wall the opening tells.
    void placesKnowTheirRoom()
    {
        TwoRooms rooms;
        rooms.change([](Level& level) { level.rooms.put(boxRoom("booth", {6, 2, 0}, {2, 2, 2.5})); });
        const RoomMap map(*rooms.project.levels[0]);
        QCOMPARE(map.roomAt({-3, 1, 1}), 0U);
        QCOMPARE(map.roomAt({3, 1, 1}), 1U);
        QCOMPARE(map.roomAt({6, 2, 1}), 2U);
        QCOMPARE(map.roomAt({20, 0, 1}), RoomMap::outside);
        QCOMPARE(map.roomAt({-0.1, 0.2, 1}), 0U); // in the doorway
        QCOMPARE(map.roomAt({0.1, 0.2, 1}), 1U);
        QCOMPARE(map.roomAt({0.1, 2.0, 1}), RoomMap::outside); // in the wall
        QVERIFY(std::abs(map.volume_m3(0) - 256.0) < 1e-9);
        // Right in front of a square of 2 by 2 m, 1 m away: a sixth of all directions.
        RoomMap::Hole square;
        square.halfWidth_m = 1.0;
        QVERIFY(std::abs(square.share({0, 1, 0}) - 1.0 / 6.0) < 1e-9);
    }

    /// A way through a door is pulled tight at its edge, and the sound comes from there.
    void soundTurnsToComeFromTheDoor()
    {
        const TwoRooms rooms(1.0, {6, 3.5, 1.6});
        const HearingModel model = rooms.model();
        const Vec3 ears{-4, 3.5, 1.6};
        const Heard heard = model.hearOne(earsAt(ears, 90), now, 0);
        QCOMPARE(heard.screened.free, 0);
        QVERIFY(heard.screened.turned > 0.9);
        // The northern edge of the opening, from where the ears are: ahead to the right.
        const double azimuth = degrees(std::atan2(heard.direction.x, heard.direction.y));
        QVERIFY2(std::abs(azimuth - degrees(std::atan2(3.0, 4.0))) < 3.0, qPrintable(QString::number(azimuth)));
        const auto told = model.explain(Moment(earsAt(ears, 90), now), heard);
        QVERIFY(told && told->ways.size() == 1 && told->ways[0].points.size() == 3);
        const Vec3 bend = told->ways[0].points[1];
        QVERIFY2(std::abs(bend.y - 0.5) < 1e-6 && std::abs(bend.x) < 1e-6, qPrintable(QString::number(bend.y)));
        // It comes through: much softer than in the open, much louder than through brick.
        QVERIFY(heard.screened.level_db() < -8.0 && heard.screened.level_db() > -30.0);
    }

    /// Closed, only what goes through leaf and walls is left.
    void sealedThereIsOnlyTransmission()
    {
        TwoRooms rooms(1.0, {4, 0, 1.6}, 0.0);
        const HearingModel shut = rooms.model();
        const Bands leaf = wallLoss_db(*findMaterial({}, {"door"}), 0.04);
        const Heard heard = shut.hearOne(earsAt({-4, 0, 1.6}, 90), now, 0);
        for (std::size_t band = 0; band < 8; ++band) {
            // Straight through the leaf, and nothing beside it.
            QVERIFY2(heard.screened.loss_db[band] > leaf[band] - 0.3,
                     qPrintable(QString("%1: %2").arg(band).arg(heard.screened.loss_db[band])));
        }
        // The other room's late field comes by as much less.
        const double closed = shareOf(shut.hearRooms(Moment(earsAt({-4, 0, 1.6}), now)), 1);
        const double open = shareOf(TwoRooms().model().hearRooms(Moment(earsAt({-4, 0, 1.6}), now)), 1);
        QVERIFY(open > 50.0 * closed);
    }

    /// In the rendered sound: in one room the late field has the level that the model says; next door it goes with the
    /// opening's area.
    void levelsAreAsTheModelSays()
    {
        const SharedBuffer buffer = noise();
        const auto levelAt = [&](TwoRooms rooms, const Vec3& ears, bool direct) {
            rooms.change([&](Level& level) {
                Emitter emitter = *level.emitters[0];
                // Without its direct sound, what is left is the rooms' part.
                Lane away = emitter.lanes.empty() ? Lane{} : emitter.lanes[0];
                away.over = LaneInput::offFront;
                away.property = LaneProperty::level;
                away.shape = LaneShape::curve;
                away.curve = {{0, direct ? 0.0 : -96.0}, {180, direct ? 0.0 : -96.0}};
                emitter.lanes = {away};
                level.emitters.put(emitter);
            });
            const auto out = renderedAt(rooms, buffer, 4.0, [&](double) { return earsAt(ears); });
            return energy_db(out, 2.0, 4.0);
        };
        const double source_db = 20.0 * std::log10(0.1);
        const TwoRooms rooms(1.0);
        const HearingModel model = rooms.model();
        const Vec3 inside{6, 2, 1.6};
        const double said = model.hearOne(earsAt(inside), now, 0).reverb_db;
        const double got = levelAt(rooms, inside, false) - source_db;
        QVERIFY2(std::abs(got - said) < 2.0, qPrintable(QString("%1 dB, said %2").arg(got).arg(said)));
        // Half a metre wide against two, from a place far off.
        const Vec3 next{-6, 0, 1.6};
        const double narrow = levelAt(TwoRooms(0.5), next, false);
        const double wide = levelAt(TwoRooms(2.0), next, false);
        const double saidNarrow = TwoRooms(0.5).model().hearOne(earsAt(next), now, 0).reverb_db;
        const double saidWide = TwoRooms(2.0).model().hearOne(earsAt(next), now, 0).reverb_db;
        QVERIFY2(std::abs((wide - narrow) - (saidWide - saidNarrow)) < 1.5,
                 qPrintable(QString("%1, said %2").arg(wide - narrow).arg(saidWide - saidNarrow)));
        QVERIFY(wide - narrow > 4.0 && wide - narrow < 8.0); // four times the area
    }

    /// Walking through an opening nothing jumps: shares of both rooms along 200 walks at 2 m/s, and in the doorway they are
    /// alike.
    void walkingThroughIsACrossFade()
    {
        const TwoRooms rooms(1.4);
        const HearingModel model = rooms.model();
        std::mt19937 chance(11);
        std::uniform_real_distribution<double> aside(-0.5, 0.5), far(-3.5, 3.5);
        double worst_db = 0.0;
        for (int walk = 0; walk < 200; ++walk) {
            const Vec3 a{-4, far(chance), 1.6};
            const Vec3 door{0, aside(chance), 1.6};
            const Vec3 b{4, far(chance), 1.6};
            const auto at = [&](double s) {
                return s < 0.5 ? a + (door - a) * (2.0 * s) : door + (b - door) * (2.0 * s - 1.0);
            };
            const double length = glm::length(door - a) + glm::length(b - door);
            std::array<double, 2> before{-1, -1};
            for (double s = 0.0; s <= 1.0; s += 0.04 / length) { // 2 m/s, every 20 ms
                const auto heard = model.hearRooms(Moment(earsAt(at(s)), now));
                for (std::uint32_t room = 0; room < 2; ++room) {
                    const double share = std::max(shareOf(heard, room), 1e-4);
                    if (before[room] > 0.0) {
                        worst_db = std::max(worst_db, std::abs(10.0 * std::log10(share / before[room])));
                    }
                    before[room] = share;
                }
            }
            const auto middle = model.hearRooms(Moment(earsAt(door), now));
            QVERIFY(std::abs(shareOf(middle, 0) - 0.5) < 0.02 && std::abs(shareOf(middle, 1) - 0.5) < 0.02);
        }
        qInfo("largest change of a room's share in 20 ms: %.2f dB", worst_db);
        QVERIFY2(worst_db < 1.5, qPrintable(QString::number(worst_db)));
        // And in the sound.
        const auto out = renderedAt(rooms, toneBuffer(1000.0), 4.0, [](double t) {
            return earsAt({-4 + 2 * t, 0.2, 1.6}, 90);
        });
        QVERIFY2(largestBreak(out, 0) < 3.0 * std::pow(2.0 * std::numbers::pi * 1000.0 / 48'000.0, 3.0),
                 qPrintable(QString::number(largestBreak(out, 0))));
    }

    /// A render from the middle is the same as that stretch of the whole: the tails are there.
    void rendersFromTheMiddleHaveTheirTails()
    {
        const TwoRooms rooms;
        OfflineJob job;
        job.scene = sceneOf(rooms.project, {noise()}, rooms.ground);
        job.ears = [](double) { return earsAt({3, 2, 1.6}); };
        job.to_s = 3.0;
        const auto whole = rendered(job);
        job.from_s = 2.5;
        const auto part = rendered(job);
        const std::size_t offset = whole.size() - part.size();
        double worst = 0.0;
        for (std::size_t i = 0; i < part.size(); ++i) {
            worst = std::max(worst, std::abs(static_cast<double>(part[i] - whole[offset + i])));
        }
        QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
    }

    void roomsAreReadAndWritten()
    {
        const std::string text =
            R"({"stone_echo": 8, "name": "x", "game_values": [{"id": "gate"}], "signals": [{"id": "bell", "name": "Bell"}], "levels": [{"id": "l",
            "rooms": [{"id": "r", "name": "R", "shape": {"is": "box", "size_m": [4, 5, 3]}, "reverb": {"rt60_s": [1,1,1,1,1,1,1,1], "late_db": -3}}],
            "openings": [{"id": "o", "name": "O", "from": [0, 0], "to": [1, 0], "open": 0.25, "follows": "gate", "opens_on": "Bell", "swing_s": 2, "leaf": "glass"}]}]})";
        const Project read = readProjectText(text, "x").project;
        const Level& level = *read.levels[0];
        QVERIFY(level.rooms.size() == 1 && level.rooms[0]->reverb.rt60_s[7] == 1.0 && level.rooms[0]->reverb.late_db == -3.0);
        QVERIFY(level.openings.size() == 1 && level.openings[0]->open == 0.25 &&
                level.openings[0]->follows == GameValueId{"gate"});
        QVERIFY(level.openings[0]->opensOn == SignalId{"bell"} && level.openings[0]->swing_s == 2.0);
        QVERIFY(readProjectText(projectText(read), "x").project == read);
        for (const char* bad :
             {R"("rooms": [{"reverb": {"rt60_s": [1, 2]}}])", R"("rooms": [{"reverb": {"rt60_s": [0,1,1,1,1,1,1,1]}}])",
              R"("openings": [{"sill_m": 3, "head_m": 2}])", R"("openings": [{"from": [1, 1], "to": [1, 1]}])"}) {
            QVERIFY_EXCEPTION_THROWN(readProjectText(std::string(R"({"levels": [{"id": "l", )") + bad + "}]}", "x"), FileError);
        }
    }
};

} // namespace tst_rooms

STONE_TEST(tst_rooms, TestRooms)
#include "tst_rooms.moc"
