// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/control.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

namespace tst_ambience
{

using namespace stone;
using fixture::energy_db;
using fixture::rendered;
using fixture::rms_db;

namespace
{

Emitter emitterOf(const char* id, EmitterKind kind)
{
    Emitter emitter = fixture::pointAt(id, {0, 0, 0});
    emitter.kind = kind;
    emitter.placement.nearRange_m = 2.0;
    return emitter;
}

Zone zoneOf(const char* id, const Vec3& at, const Vec3& size, const char* parent = "")
{
    Zone zone;
    zone.id = {id};
    zone.at = at;
    zone.shape = Box{size};
    zone.parent = {parent};
    return zone;
}

Emitter bedIn(const char* zone, bool inWorld)
{
    Emitter bed = emitterOf(zone, EmitterKind::bed);
    bed.zone = {zone};
    bed.placement.imageInWorld = inWorld;
    return bed;
}

Project withZones(Project project, const std::vector<Zone>& zones)
{
    return withLevel(std::move(project), {"level"}, [&](Level& level) {
        for (const Zone& zone : zones) {
            level.zones.put(zone);
        }
    });
}

/// Two unlike channels, each with whole cycles in 10 ms.
SharedBuffer stereoTone()
{
    auto buffer = std::make_shared<SampleBuffer>(*fixture::toneBuffer(500.0));
    buffer->channels.push_back(fixture::toneBuffer(700.0)->channels.front());
    return buffer;
}

std::vector<float> walked(const std::shared_ptr<const Scene>& scene, Layout layout, double seconds,
                          const std::function<Pose(double)>& ears)
{
    OfflineJob job;
    job.scene = scene;
    job.layout = layout;
    job.to_s = seconds;
    job.ears = ears;
    return rendered(job);
}

/// The largest change of level from 10 ms to the next, of both sides together, dB; and of one side, as a share of what both
/// have. Quiet stretches do not count.
std::pair<double, double> largestSteps(const std::vector<float>& x)
{
    constexpr std::size_t window = 480;
    double level_db = 0.0;
    double side = 0.0;
    std::optional<std::array<double, 2>> last;
    // The first 50 ms are those in which the sound comes up.
    for (std::size_t from = 5 * window; (from + window) * 2 <= x.size(); from += window) {
        std::array<double, 2> power{};
        for (std::size_t i = from; i < from + window; ++i) {
            power[0] += std::pow(x[2 * i], 2.0) / window;
            power[1] += std::pow(x[2 * i + 1], 2.0) / window;
        }
        if (last && power[0] + power[1] > 1e-6) {
            level_db = std::max(level_db, std::abs(10.0 * std::log10((power[0] + power[1]) / ((*last)[0] + (*last)[1]))));
            for (std::size_t i = 0; i < 2; ++i) {
                side = std::max(side, std::abs(std::sqrt(power[i]) - std::sqrt((*last)[i])) / std::sqrt(power[0] + power[1]));
            }
        }
        last = power;
    }
    return {level_db, side};
}

} // namespace

class TestAmbience : public QObject
{
    Q_OBJECT

    /// The pitch of a tone by its rising zero crossings, all channels together.
    static double hertzOf(const std::vector<float>& out, std::size_t channels, double from_s, double to_s)
    {
        const auto at = [&](std::size_t frame) {
            return std::accumulate(out.begin() + static_cast<std::ptrdiff_t>(frame * channels),
                                   out.begin() + static_cast<std::ptrdiff_t>((frame + 1) * channels), 0.0);
        };
        std::vector<double> crossings;
        for (auto i = static_cast<std::size_t>(from_s * 48e3); i < static_cast<std::size_t>(to_s * 48e3); ++i) {
            const double a = at(i);
            const double b = at(i + 1);
            if (a < 0.0 && b >= 0.0) {
                crossings.push_back(static_cast<double>(i) + a / (a - b));
            }
        }
        return 48e3 * static_cast<double>(crossings.size() - 1) / (crossings.back() - crossings.front());
    }

private slots:
    /// In and out over every kind of border, and no step in what is heard.
    void bordersAreNoSteps_data()
    {
        QTest::addColumn<int>("border");
        QTest::addColumn<int>("layout");
        QTest::addColumn<double>("speed");
        const char* names[] = {"area", "area with an image", "bed round the head", "bed in the world", "child", "overlap"};
        for (int border = 0; border < 6; ++border) {
            for (const Layout layout : {Layout::stereo, Layout::binaural}) {
                for (const double speed : {1.0, 5.0, 10.0}) {
                    QTest::addRow("%s, %s, %g m/s", names[border], nameOf(layout), speed)
                        << border << static_cast<int>(layout) << speed;
                }
            }
        }
    }
    void bordersAreNoSteps()
    {
        QFETCH(int, border);
        QFETCH(int, layout);
        QFETCH(double, speed);
        Project project;
        switch (border) {
        case 0:
        case 1: {
            Emitter area = emitterOf("area", EmitterKind::area);
            area.area.shape = Box{{6, 20, 3}};
            area.placement.channels = border == 1 ? ChannelUse::image : ChannelUse::undecided;
            project = fixture::projectWith({area});
            break;
        }
        case 2:
        case 3: project = withZones(fixture::projectWith({bedIn("a", border == 3)}), {zoneOf("a", {}, {6, 20, 3})}); break;
        case 4:
            project = withZones(fixture::projectWith({bedIn("a", false), bedIn("b", false)}),
                                {zoneOf("a", {}, {60, 60, 3}), zoneOf("b", {}, {14, 20, 3}, "a")});
            break;
        default:
            project = withZones(fixture::projectWith({bedIn("a", false), bedIn("b", false)}),
                                {zoneOf("a", {-6, 0, 0}, {20, 20, 3}), zoneOf("b", {6, 0, 0}, {20, 20, 3})});
            break;
        }
        // In two beds the tones would beat against each other: the second one has others.
        if (border >= 4) {
            project = withEmitter(project, {"level"}, {"b"}, [](Emitter& e) { e.pitch_st = 12.0; });
        }
        const double length = 24.0 / speed;
        const auto out = walked(fixture::sceneOf(project, stereoTone()), static_cast<Layout>(layout), length, [&](double t) {
            return Pose{{-12.0 + speed * t, 0.37, 1.5}, 20.0, 0, 0};
        });
        const auto [level_db, side] = largestSteps(out);
        // The inverse law allows 0.83 dB for 0.1 m at 1 m, a fade over 5 m with -18 dB halfway up to 4.7 dB; what is left is
        // Doppler between windows and cycles.
        // On headphones a point that becomes wide is blended from its own filters to others, alike at low frequencies: up to
        // 3 dB within some 0.3 m.
        const bool filters = layout == static_cast<int>(Layout::binaural) && (border == 1 || border == 3);
        const double most_db = ((border == 4 ? 4.7 : 1.0) + (filters ? 2.5 : 0.0)) * speed / 10.0 + 0.35;
        QVERIFY2(level_db < most_db, qPrintable(QString("%1 dB").arg(level_db)));
        QVERIFY2(side < 0.02 + (filters ? 0.032 : 0.022) * speed, qPrintable(QString::number(side)));
        QVERIFY(fixture::largestBreak(out, 0) < 0.01 && fixture::largestBreak(out, 1) < 0.01);
    }

    void anAreaIsHeardFromItsNearestPartAndFromAllRound()
    {
        Emitter weir = emitterOf("weir", EmitterKind::area);
        weir.area.shape = Box{{40, 4, 2}};
        const auto scene = fixture::sceneOf(fixture::projectWith({weir}), fixture::toneBuffer());
        const auto at = [&](const Vec3& place, double heading) {
            return scene->model.hearOne(Ears{place, heading, 0, 0}, {}, 0);
        };
        // Beside its east end, facing north: it is ahead, as far away as its nearest face, and wider the nearer.
        QVERIFY(std::abs(at({15, -12, 1}, 0).bearing.distance_m - 10.0) < 1e-9);
        QVERIFY(std::abs(at({0, -12, 1}, 0).direction.x) < 1e-9 && at({0, -12, 1}, 0).direction.y > 0.7);
        QVERIFY(glm::length(at({0, -5, 1}, 0).direction) < glm::length(at({0, -30, 1}, 0).direction));
        QVERIFY(glm::length(at({0, 0, 1}, 0).direction) < 1e-12 && at({0, 0, 1}, 0).level_db == 0.0);
        // Rendered: level with both sides alike inside, one side outside.
        const auto inside = walked(scene, Layout::stereo, 0.5, [](double) { return Pose{{3, 0, 1}, 70, 0, 0}; });
        QVERIFY(std::abs(rms_db(inside, 0, 0.1, 0.5) - rms_db(inside, 1, 0.1, 0.5)) < 0.1);
        const auto beside = walked(scene, Layout::stereo, 0.5, [](double) { return Pose{{0, -30, 1}, -90, 0, 0}; });
        QVERIFY(rms_db(beside, 1, 0.1, 0.5) > rms_db(beside, 0, 0.1, 0.5) + 10.0);
    }

    /// Several areas of one sound: one voice, from the nearest of them; between two from both.
    void areasShareAVoice()
    {
        std::vector<Emitter> gutters;
        for (int i = 0; i < 5; ++i) {
            gutters.push_back(emitterOf(("gutter" + std::to_string(i)).c_str(), EmitterKind::area));
            gutters.back().at = {20.0 * i, 0, 0};
            gutters.back().area.shape = Ribbon{{{0, -5, 0}, {0, 5, 0}}, 0.2, false};
            gutters.back().area.sharesVoice = true;
        }
        const auto scene = fixture::sceneOf(fixture::projectWith(gutters), fixture::toneBuffer());
        const auto hear = [&](const Vec3& place) {
            std::vector<Heard> heard;
            HearScratch scratch;
            scene->model.hear(Moment(Ears{place, 0, 0, 0}, {}), heard, scratch);
            std::erase_if(heard, [](const Heard& h) { return !h.audible; });
            return heard;
        };
        for (const double x : {-3.0, 43.0, 78.0}) {
            const auto heard = hear({x, 0, 0});
            QCOMPARE(heard.size(), std::size_t(1));
            QVERIFY(std::abs(heard[0].bearing.distance_m - 2.9) < 0.1 || x > 70.0);
        }
        // Its like beyond both pull the other way: a hundredth.
        QVERIFY(std::abs(hear({30, 0, 0})[0].direction.x) < 0.02);
        const double before = hear({29, 0, 0})[0].direction.x;
        QVERIFY(before < 0.0 && hear({31, 0, 0})[0].direction.x > 0.0);
    }

    /// The place that an area sounds from follows no faster than it may.
    void theSoundingPlaceGlides()
    {
        Emitter wall = emitterOf("wall", EmitterKind::area);
        wall.area.shape = Box{{200, 1, 3}};
        wall.area.glide_m_s = 2.0;
        const auto scene = fixture::sceneOf(fixture::projectWith({wall}), fixture::toneBuffer());
        Control control(Layout::stereo, 48'000);
        control.setScene(scene, 0);
        StepPlan plan;
        plan.voices.reserve(16);
        Vec3 last{0.0};
        double fastest = 0.0;
        for (std::uint64_t step = 0; step < 400; ++step) {
            // Running along it at 10 m/s.
            const double x = 10.0 * static_cast<double>(step) * stepFrames / 48'000.0;
            control.decide(step, Ears{{x, -6, 1.5}, 0, 0, 0}, plan);
            const Vec3 from = control.heard().front().at;
            if (step > 0) {
                fastest = std::max(fastest, glm::length(from - last) * 48'000.0 / stepFrames);
            }
            last = from;
        }
        QVERIFY2(fastest <= 2.0 + 1e-6 && fastest > 1.9, qPrintable(QString::number(fastest)));
    }

    void aBedInTheWorldTurnsAgainstTheHead()
    {
        const auto levels = [&](bool inWorld, double heading) {
            const auto scene = fixture::sceneOf(
                withZones(fixture::projectWith({bedIn("a", inWorld)}), {zoneOf("a", {}, {20, 20, 3})}), stereoTone());
            const auto out = walked(scene, Layout::quad, 0.5, [&](double) { return Pose{{0, 0, 1.5}, heading, 0, 0}; });
            std::array<double, 4> db{};
            for (std::size_t i = 0; i < 4; ++i) {
                db[i] = rms_db(out, i, 0.1, 0.5, 4);
            }
            return db;
        };
        // Facing south, what was ahead is behind: front left (0) changes places with rear right (3).
        const auto north = levels(true, 0.0);
        const auto south = levels(true, 180.0);
        QVERIFY(north[0] > north[3] + 6.0 && south[3] > south[0] + 6.0);
        const auto head = levels(false, 0.0);
        const auto turned = levels(false, 180.0);
        QVERIFY(std::abs(head[0] - turned[0]) < 0.1);
    }

    void theParentIsGoneInsideTheChild()
    {
        Project project = withZones(fixture::projectWith({bedIn("a", false)}),
                                    {zoneOf("a", {}, {60, 60, 3}), zoneOf("b", {}, {30, 30, 3}, "a")});
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer());
        const auto at = [&](double x) {
            return energy_db(walked(scene, Layout::stereo, 0.5, [&](double) { return Pose{{x, 0, 1.5}, 0, 0, 0}; }), 0.2, 0.5);
        };
        const double outside = at(20.0);
        QVERIFY2(std::abs(at(12.5) - outside + 18.0) < 0.2, qPrintable(QString::number(at(12.5) - outside)));
        // Starting inside needs no border to be crossed.
        QVERIFY(at(0.0) < -150.0);
    }

    void lanesFollowDepthAndGameValues()
    {
        Emitter hum = emitterOf("hum", EmitterKind::point);
        hum.at = {0, 0, 1.5};
        hum.zone = {"a"};
        Lane depth = fadeOverDepth(1.0);
        depth.curve = {{0, -20}, {10, 0}};
        Lane wind = depth;
        wind.over = LaneInput::gameValue;
        wind.value = {"wind"};
        wind.curve = {{0, 0}, {1, -12}};
        hum.lanes = {depth, wind};
        Project project = withZones(fixture::projectWith({hum}), {zoneOf("a", {}, {20, 20, 3})});
        GameValue value;
        value.id = {"wind"};
        value.smoothing_s = 0.5;
        project.gameValues.put(value);
        const auto scene = fixture::sceneOf(project, fixture::toneBuffer());
        OfflineJob job;
        job.scene = scene;
        job.to_s = 2.0;
        job.ears = [](double) { return Pose{{0, 0.5, 1.5}, 0, 0, 0}; };
        job.happenings = [](double from_s, double to_s) {
            return from_s <= 1.0 && 1.0 < to_s
                       ? std::vector<Happening>{{Cause::signal, {}, std::pair(GameValueId{"wind"}, 1.0)}}
                       : std::vector<Happening>{};
        };
        const auto out = rendered(job);
        const double before = energy_db(out, 0.5, 0.95);
        QVERIFY(std::abs(energy_db(out, 1.6, 2.0) - before + 12.0) < 0.1);
        // Halfway down after half of its time, and no step on the way.
        QVERIFY(std::abs(energy_db(out, 1.24, 1.26) - before + 6.0) < 0.6);
        QVERIFY(largestSteps(out).first < 0.6);
        // 9.5 m deep: a dB below full.
        const Heard heard = scene->model.hearOne(Ears{{0, 0.5, 1.5}, 0, 0, 0}, {}, 0);
        QVERIFY(std::abs(heard.level_db + 1.0) < 1e-9 && std::abs(heard.depth_m - 9.5) < 1e-9);
    }

    /// One-shots sound where and when the world says, whatever the block; the same night twice, another with another seed.
    void sprinklesAreRendered()
    {
        Emitter drip = emitterOf("drip", EmitterKind::sprinkle);
        drip.sprinkling.least_s = 0.4;
        drip.sprinkling.most_s = 0.8;
        drip.sprinkling.fromAngle_deg = 60.0;
        drip.sprinkling.toAngle_deg = 120.0;
        Project project = fixture::projectWith({drip}, false);
        auto click = std::make_shared<SampleBuffer>();
        click->channels.assign(1, std::vector<float>(2400, 0.0F));
        for (std::size_t i = 0; i < 2400; ++i) {
            click->channels[0][i] = std::exp(-static_cast<float>(i) / 300.0F);
        }
        OfflineJob job;
        job.scene = fixture::sceneOf(project, SharedBuffer(click));
        job.to_s = 6.0;
        job.ears = [](double) { return Pose{{0, 0, 1.6}, 0, 0, 0}; };
        const auto out = rendered(job);
        // To the right, and with the intervals of the document.
        QVERIFY(rms_db(out, 1, 0, 6) > rms_db(out, 0, 0, 6) + 10.0);
        std::vector<double> onsets;
        for (std::size_t i = 240; i < out.size() / 2; ++i) {
            if (std::abs(out[2 * i + 1]) > 2.0F * std::abs(out[2 * i - 1]) + 0.005F &&
                (onsets.empty() || static_cast<double>(i) / 48e3 - onsets.back() > 0.1)) {
                onsets.push_back(static_cast<double>(i) / 48e3);
            }
        }
        QVERIFY(onsets.size() >= 6);
        for (std::size_t i = 1; i < onsets.size(); ++i) {
            QVERIFY2(onsets[i] - onsets[i - 1] > 0.39 && onsets[i] - onsets[i - 1] < 0.81,
                     qPrintable(QString::number(onsets[i] - onsets[i - 1])));
        }
        job.block = 1000;
        QVERIFY(rendered(job) == out);
        job.scene = fixture::sceneOf(
            [&] {
                Project p = project;
                p.seed = 99;
                return p;
            }(),
            SharedBuffer(click));
        QVERIFY(rendered(job) != out);
    }

    /// A stretch from the middle of a walk is that stretch of the whole.
    void fromTheMiddleIsTheSameNight()
    {
        Emitter drip = emitterOf("drip", EmitterKind::sprinkle);
        drip.sprinkling.least_s = 0.2;
        drip.sprinkling.most_s = 0.6;
        Emitter bell = emitterOf("bell", EmitterKind::point);
        bell.at = {3, 4, 0};
        bell.starting.starts = {{.cause = Cause::signal, .zone = {}, .signal = {"ring"}}};
        Project project = fixture::projectWith({drip, bell}, false);
        Walk walk;
        walk.id = {"walk"};
        walk.points = {{0, {0, 0, 0}, {}, 0, {}}, {10, {6, 6, 0}, {}, 0, {}}};
        WalkEvent ring;
        ring.t_s = 4.8;
        ring.signal = {"ring"};
        walk.events = {ring};
        project = withLevel(project, {"level"}, [&](Level& level) { level.walks.put(walk); });
        OfflineJob job;
        job.scene = fixture::sceneOf(project, fixture::toneBuffer(480.0, 0.7));
        followWalk(job, walk);
        job.to_s = 8.0;
        const auto whole = rendered(job);
        job.from_s = 5.12;
        const auto part = rendered(job);
        double difference = 0.0;
        // The first steps fade in what had begun before.
        for (std::size_t i = 4 * 1024; i < part.size(); ++i) {
            difference = std::max(difference, static_cast<double>(std::abs(part[i] - whole[i + 2 * 245'760])));
        }
        QVERIFY2(difference < 1e-6, qPrintable(QString::number(difference)));
        QVERIFY(energy_db(whole, 4.9, 5.4) > energy_db(whole, 0.0, 0.1));
    }

    /// A siren goes by at 20 m/s: the pitch of physics, by way of the rendered sound.
    void aRoamerHasTheDopplerOfItsSpeed()
    {
        Emitter train = emitterOf("train", EmitterKind::roamer);
        train.roaming.stops = {{{-100, 5, 0}, 0.0, {}}, {{100, 5, 0}, 0.0, {}}};
        train.roaming.speed_m_s = 20.0;
        train.roaming.ease = 0.0;
        train.placement.doppler = 1.0;
        OfflineJob job;
        job.scene = fixture::sceneOf(fixture::projectWith({train}), fixture::toneBuffer(480.0));
        job.to_s = 9.0;
        job.ears = [](double) { return Pose{}; };
        const auto out = rendered(job);
        const auto hertz = [&](double from_s, double to_s) { return hertzOf(out, 2, from_s, to_s); };
        const double c = 343.0;
        QVERIFY2(std::abs(hertz(1.0, 1.5) / 480.0 - 1.0 / (1.0 - 20.0 / c)) < 0.004,
                 qPrintable(QString::number(hertz(1.0, 1.5))));
        QVERIFY2(std::abs(hertz(8.0, 8.5) / 480.0 - 1.0 / (1.0 + 20.0 / c)) < 0.004,
                 qPrintable(QString::number(hertz(8.0, 8.5))));
    }

    /// Fast ones, coming and going: what arrives left where the source was then. Within a thousandth.
    void fastRoamersHaveTheRatioOfPhysics()
    {
        constexpr double c = 343.0;
        for (const double speed : {33.0, 80.0, 120.0, 150.0}) {
            Emitter train = emitterOf("train", EmitterKind::roamer);
            train.roaming.stops = {{{-4.0 * speed, 1, 0}, 0.0, {}}, {{4.0 * speed, 1, 0}, 0.0, {}}};
            train.roaming.speed_m_s = speed;
            train.roaming.ease = 0.0;
            train.placement.doppler = 1.0;
            train.placement.dopplerLimit_st = 48.0;
            Falloff flat;
            flat.lanes.front().on = false;
            train.falloff = flat;
            OfflineJob job;
            job.scene = fixture::sceneOf(fixture::projectWith({train}), fixture::toneBuffer(480.0));
            job.layout = Layout::mono;
            job.to_s = 8.0;
            job.ears = [](double) { return Pose{}; };
            const auto out = rendered(job);
            const auto ratio = [&](double from_s, double to_s) { return hertzOf(out, 1, from_s, to_s) / 480.0; };
            QVERIFY2(std::abs(ratio(1.5, 3.0) / (c / (c - speed)) - 1.0) < 0.001,
                     qPrintable(QString("%1 m/s, coming: %2").arg(speed).arg(ratio(1.5, 3.0))));
            QVERIFY2(std::abs(ratio(6.0, 7.5) / (c / (c + speed)) - 1.0) < 0.001,
                     qPrintable(QString("%1 m/s, going: %2").arg(speed).arg(ratio(6.0, 7.5))));
        }
    }

    /// Where the limit holds the pitch, the sound goes on: no fades into itself.
    void theLimitOfPitchMakesNoDips()
    {
        Emitter train = emitterOf("train", EmitterKind::roamer);
        train.roaming.stops = {{{0, 2, 0}, 0.0, {}}, {{900, 2, 0}, 0.0, {}}};
        train.roaming.speed_m_s = 150.0;
        train.roaming.ease = 0.0;
        train.placement.doppler = 1.0;
        train.placement.dopplerLimit_st = 3.0;
        Falloff flat;
        flat.lanes.front().on = false;
        train.falloff = flat;
        OfflineJob job;
        job.scene = fixture::sceneOf(fixture::projectWith({train}), fixture::toneBuffer(480.0));
        job.layout = Layout::mono;
        job.to_s = 6.0;
        job.ears = [](double) { return Pose{}; };
        const auto out = rendered(job);
        for (double t = 1.0; t < 5.5; t += 0.05) {
            const double level = fixture::rms_db(out, 0, t, t + 0.05, 1);
            QVERIFY2(std::abs(level - fixture::rms_db(out, 0, 1.0, 1.05, 1)) < 0.7, qPrintable(QString::number(t)));
        }
    }

    /// Ten starts a second of a sound of two seconds: those beyond the most copies are refused, the others play on.
    void startsBeyondTheMostCopiesAreRefusedOneByOne()
    {
        Emitter bell = emitterOf("bell", EmitterKind::point);
        bell.at = {0, 1, 0};
        bell.starting.starts = {Trigger{.cause = Cause::signal, .zone = {}, .signal = {"ring"}}};
        bell.starting.second = SecondStart::another;
        OfflineJob job;
        job.scene = fixture::sceneOf(fixture::projectWith({bell}, false), fixture::toneBuffer(480.0, 2.0, 0.02F));
        job.layout = Layout::mono;
        job.to_s = 8.0;
        job.ears = [](double) { return Pose{}; };
        job.happenings = [](double from_s, double to_s) {
            std::vector<Happening> found;
            for (int i = 0; i < 80; ++i) {
                if (const double t = 0.1 * i + 0.05; from_s <= t && t < to_s) {
                    found.push_back({Cause::signal, {"ring"}, {}});
                }
            }
            return found;
        };
        const auto out = rendered(job);
        const double full = fixture::rms_db(out, 0, 1.7, 1.9, 1);
        const double one = fixture::rms_db(out, 0, 0.1, 0.14, 1);
        QVERIFY2(full > one + 10.0, qPrintable(QString("%1 dB, one alone %2").arg(full).arg(one)));
        for (double t = 2.0; t < 7.8; t += 0.1) {
            const double level = fixture::rms_db(out, 0, t, t + 0.1, 1);
            QVERIFY2(std::abs(level - full) < 4.0, qPrintable(QString("%1 dB at %2 s").arg(level - full).arg(t)));
        }
    }

    void stoppedSoundsFadeAndPausedOnesGoOn()
    {
        Emitter bell = emitterOf("bell", EmitterKind::point);
        bell.at = {1, 0, 0};
        const auto on = [](const char* signal) { return Trigger{.cause = Cause::signal, .zone = {}, .signal = {signal}}; };
        bell.starting.starts = {on("ring")};
        bell.starting.stops = {on("hush")};
        bell.starting.second = SecondStart::pauseAndResume;
        bell.starting.fadeOut_s = 0.2;
        OfflineJob job;
        job.scene = fixture::sceneOf(fixture::projectWith({bell}), fixture::toneBuffer(480.0));
        job.to_s = 5.0;
        job.ears = [](double) { return Pose{}; };
        job.happenings = [](double from_s, double to_s) {
            std::vector<Happening> found;
            for (const auto& [t, signal] : {std::pair(1.0, "ring"), {2.0, "ring"}, {3.0, "ring"}, {4.0, "hush"}}) {
                if (from_s <= t && t < to_s) {
                    found.push_back({Cause::signal, {signal}});
                }
            }
            return found;
        };
        const auto out = rendered(job);
        const double full = energy_db(out, 1.3, 1.9);
        QVERIFY(energy_db(out, 0.0, 0.98) < -200.0 && energy_db(out, 2.1, 2.95) < -200.0);
        QVERIFY(std::abs(energy_db(out, 3.2, 3.9) - full) < 0.1);
        QVERIFY(std::abs(energy_db(out, 4.095, 4.105) - full + 6.0) < 0.7);
        QVERIFY(energy_db(out, 4.3, 5.0) < -200.0);
        QVERIFY(fixture::largestBreak(out, 0) < 0.01);
    }

    /// Loops of different lengths stay where they belong for ten minutes, to the sample.
    void layersDoNotDrift()
    {
        Emitter bed = emitterOf("bed", EmitterKind::bed);
        Project project = fixture::projectWith({bed});
        Sound layers = *project.sounds.find({"tone"});
        layers.make = Make::layers;
        layers.copiesApart = false;
        layers.files = {{.file = "a"}, {.file = "b"}};
        project.sounds.put(layers);
        const std::array<std::size_t, 2> lengths{48'000 * 7 + 13, 48'000 * 11 + 5};
        std::vector<SharedBuffer> files;
        for (const std::size_t length : lengths) {
            auto pulse = std::make_shared<SampleBuffer>();
            pulse->channels.assign(1, std::vector<float>(length, 0.0F));
            pulse->channels[0][100] = files.empty() ? 0.5F : 0.25F;
            files.push_back(pulse);
        }
        OfflineJob job;
        job.scene = fixture::sceneOf(project, files);
        job.to_s = 600.0;
        job.ears = [](double) { return Pose{}; };
        std::size_t frame = 0;
        std::array<std::size_t, 2> pulses{};
        bool inPlace = true;
        renderOffline(job,
                      [&](std::span<const float> out) {
                          for (std::size_t i = 0; i < out.size(); i += 2, ++frame) {
                              if (std::abs(out[i]) > 0.05F) {
                                  const std::size_t layer = frame % lengths[0] == 100 ? 0 : 1;
                                  inPlace = inPlace && frame % lengths[layer] == 100;
                                  ++pulses[layer];
                              }
                          }
                      },
                      {});
        QVERIFY(inPlace);
        QVERIFY(pulses[0] >= 85 && pulses[1] >= 54);
    }
};

} // namespace tst_ambience

STONE_TEST(tst_ambience, TestAmbience)
#include "tst_ambience.moc"
