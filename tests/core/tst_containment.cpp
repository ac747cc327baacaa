// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/mixer.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <algorithm>
#include <cmath>
#include <limits>

namespace tst_containment
{

using namespace stone;

/// What is not a number stays where it arose, for as long as it is there: a second later all is as it would have been.
class TestContainment : public QObject
{
    Q_OBJECT

    static constexpr std::size_t rate = 48'000;

    /// Two seconds of a tone, in a loop; `bad`: what stands in a few of its samples.
    static SharedBuffer tone(std::optional<float> bad)
    {
        auto buffer = std::make_shared<SampleBuffer>(*fixture::toneBuffer(480.0, 2.0));
        for (std::size_t i = 24'000; bad && i < 24'010; ++i) {
            buffer->channels[0][i] = *bad;
        }
        return buffer;
    }

    static Project projectFor(const QString& stage)
    {
        Emitter emitter = fixture::pointAt("a", {0.0, 4.0, 1.6});
        Project project = fixture::projectWith({emitter});
        const auto change = [&](auto&& what) { project = withEmitter(project, {"level"}, {"a"}, what); };
        const auto changeSound = [&](auto&& what) {
            Sound sound = *project.sounds.find({"tone"});
            what(sound);
            project.sounds.put(sound);
        };
        if (stage == "effects") {
            changeSound([](Sound& s) {
                s.effects.equaliser.on = s.effects.saturation.on = s.effects.echo.on = true;
                s.effects.equaliser.middle_db = 6.0;
            });
        } else if (stage == "filters") {
            changeSound([](Sound& s) {
                s.lowPass_hz = 2'000.0;
                s.highPass_hz = 100.0;
            });
        } else if (stage == "losses") {
            change([](Emitter& e) {
                e.at = {0.0, 150.0, 1.6};
                e.placement.air = true;
            });
        } else if (stage == "wide") {
            change([](Emitter& e) { e.placement.spread_deg = 200.0; });
        } else if (stage == "rooms") {
            project = withLevel(project, {"level"}, [](Level& level) {
                Room room;
                room.id = {"hall"};
                room.shape = Box{{14.0, 14.0, 5.0}};
                room.reverb.rt60_s.fill(0.4);
                level.rooms.put(room);
            });
        }
        return project;
    }

    static std::vector<float> heard(const Project& project, const SharedBuffer& buffer, Layout layout)
    {
        return fixture::rendered(
            {.scene = fixture::sceneOf(project, buffer), .layout = layout, .to_s = 2.0, .ears = [](double) {
                 return Pose{{0.0, 0.0, 1.6}, 0.0, 0.0, 0.0};
             }});
    }

private slots:
    void whatIsNoSoundStaysWhereItArose_data()
    {
        QTest::addColumn<QString>("stage");
        QTest::addColumn<bool>("binaural");
        QTest::addColumn<float>("bad");
        for (const char* stage : {"voice", "effects", "filters", "losses", "wide", "rooms"}) {
            for (const bool binaural : {false, true}) {
                QTest::addRow("%s, %s, not a number", stage, binaural ? "headphones" : "stereo")
                    << stage << binaural << std::numeric_limits<float>::quiet_NaN();
                QTest::addRow("%s, %s, endless", stage, binaural ? "headphones" : "stereo")
                    << stage << binaural << std::numeric_limits<float>::infinity();
            }
        }
    }

    void whatIsNoSoundStaysWhereItArose()
    {
        QFETCH(QString, stage);
        QFETCH(bool, binaural);
        QFETCH(float, bad);
        const Layout layout = binaural ? Layout::binaural : Layout::stereo;
        const Project project = projectFor(stage);
        const auto good = heard(project, tone({}), layout);
        const auto hurt = heard(project, tone(bad), layout);
        QCOMPARE(hurt.size(), good.size());
        QVERIFY(std::all_of(hurt.begin(), hurt.end(), [](float sample) { return std::isfinite(sample); }));
        float before = 0.0F;
        float after = 0.0F;
        float loudest = 0.0F;
        for (std::size_t i = 0; i < good.size(); ++i) {
            const float off = std::abs(good[i] - hurt[i]);
            loudest = std::max(loudest, std::abs(good[i]));
            if (i < 2 * (rate / 2 - 512)) {
                before = std::max(before, off);
            } else if (i > 2 * (rate + rate / 2)) {
                after = std::max(after, off);
            }
        }
        QVERIFY(loudest > 0.001F);
        QCOMPARE(before, 0.0F);
        QVERIFY2(after < 1e-4F * loudest, qPrintable(QString("%1 of %2").arg(after).arg(loudest)));
    }

    void itIsCountedAndKnownWhere()
    {
        Mixer mixer(Layout::stereo, rate);
        const std::vector<float> samples(1024, std::numeric_limits<float>::quiet_NaN());
        StepPlan* plan = mixer.plans().free();
        QVERIFY(plan != nullptr);
        plan->step = 0;
        VoiceOrder order;
        order.slot = 7;
        order.generation = 1;
        order.samples = samples.data();
        order.frames = 1024;
        order.target = {std::numeric_limits<float>::infinity(), 1.0F};
        plan->voices = {order};
        mixer.plans().publish();
        std::vector<float> out(2 * stepFrames);
        mixer.process(out.data(), stepFrames);
        QVERIFY(std::all_of(out.begin(), out.end(), [](float sample) { return std::isfinite(sample); }));
        QCOMPARE(mixer.contained().count(), std::uint64_t{1});
        QCOMPARE(mixer.contained().last(), 7U);
    }
};

} // namespace tst_containment

STONE_TEST(tst_containment, TestContainment)
#include "tst_containment.moc"
