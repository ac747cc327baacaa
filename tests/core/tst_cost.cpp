// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/live.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <QTest>

#include <cmath>
#include <numeric>

namespace tst_cost
{

using namespace stone;
using fixture::pointAt;

/// What things cost: the parts make up the whole, and who does more has the larger part.
class TestCost : public QObject
{
    Q_OBJECT

    /// Two tones, one of them through an equaliser and a filter.
    static Project twoTones()
    {
        Project project = fixture::projectWith({pointAt("plain", {0, 2, 1.6}), pointAt("shaped", {0, 3, 1.6})});
        Sound shaped = *project.sounds.find({"tone"});
        shaped.id = {"shaped"};
        shaped.name = "shaped";
        shaped.effects.equaliser.on = true;
        shaped.effects.equaliser.low_db = 6.0;
        shaped.lowPass_hz = 2'000.0;
        project.sounds.put(shaped);
        return withEmitter(std::move(project), {"level"}, {"shaped"}, [](Emitter& e) { e.sound = {"shaped"}; });
    }

    static std::vector<Costs> costsOf(const Project& project, Layout layout, double seconds)
    {
        Control control(layout, 48'000);
        Mixer mixer(layout, 48'000);
        control.setScene(fixture::sceneOf(project, fixture::toneBuffer()), 0);
        std::vector<float> block(stepFrames * channelsOf(layout));
        std::vector<Costs> all;
        std::shared_ptr<const Costs> last;
        for (std::uint64_t step = 0; static_cast<double>(step * stepFrames) < seconds * 48'000.0; ++step) {
            control.decide(step, Pose{{0, 0, 1.6}, 0, 0, 0}, *mixer.plans().free());
            control.measureCosts(mixer.times());
            mixer.plans().publish();
            mixer.process(block.data(), stepFrames);
            if (control.costs() != last) {
                last = control.costs();
                all.push_back(*last);
            }
        }
        return all;
    }

private slots:
    void thePartsAreTheWhole()
    {
        for (const Layout layout : {Layout::stereo, Layout::binaural}) {
            const auto all = costsOf(twoTones(), layout, 3.0);
            QVERIFY(all.size() >= 5);
            for (const Costs& costs : all) {
                QVERIFY(std::abs(costs.span_s - 0.5) < 0.01);
                const double voices_s = costs.of(CostStage::voices);
                QVERIFY(voices_s > 0.0 && costs.of(CostStage::deciding) > 0.0 && costs.of(CostStage::ordering) > 0.0 &&
                        costs.of(CostStage::output) > 0.0);
                double sounds_s = 0.0;
                for (const Costs::OfSound& of : costs.sounds) {
                    sounds_s += of.seconds;
                }
                const double works_s = std::accumulate(costs.works_s.begin(), costs.works_s.end(), 0.0);
                QVERIFY(std::abs(sounds_s - voices_s) < 1e-12 && std::abs(works_s - voices_s) < 1e-12);
                double stages_s = 0.0;
                for (std::size_t stage = 0; stage < costStages; ++stage) {
                    stages_s += costs.of(static_cast<CostStage>(stage));
                }
                QVERIFY(std::abs(stages_s - costs.total_s()) < 1e-12);
                QVERIFY(layout != Layout::binaural || costs.of(CostStage::ears) > 0.0);
            }
        }
    }

    void whoDoesMoreHasMore()
    {
        const auto all = costsOf(twoTones(), Layout::stereo, 1.2);
        const Costs& costs = all.back();
        QCOMPARE(costs.sounds.size(), std::size_t(2));
        std::map<SoundId, Costs::OfSound> by;
        for (const Costs::OfSound& of : costs.sounds) {
            by[of.sound] = of;
        }
        QVERIFY(by[{"shaped"}].seconds > 5.0 * by[{"tone"}].seconds);
        QVERIFY(std::abs(by[{"shaped"}].voices - 1.0) < 0.05 && std::abs(by[{"tone"}].voices - 1.0) < 0.05);
        QVERIFY(costs.of(Work::equaliser) > costs.of(Work::filters) && costs.of(Work::filters) > 0.0);
        QVERIFY(costs.of(Work::echo) == 0.0 && costs.of(Work::walls) == 0.0);
    }

    /// More copies cost more; silence costs hardly anything but deciding.
    void costFollowsWhatSounds()
    {
        const auto voicesOf = [](int copies) {
            std::vector<Emitter> emitters;
            for (int i = 0; i < copies; ++i) {
                emitters.push_back(pointAt("e" + std::to_string(i), {0.01 * i, 2, 1.6}));
            }
            Project project = fixture::projectWith(emitters);
            project.voices = 4096;
            const auto all = costsOf(project, Layout::stereo, 1.6);
            // The least of a few: others use the processor too.
            double least_s = 1e9;
            for (const Costs& costs : all) {
                least_s = std::min(least_s, costs.of(CostStage::voices));
            }
            return least_s;
        };
        const double none_s = voicesOf(0);
        const double ten_s = voicesOf(10);
        const double many_s = voicesOf(200);
        QVERIFY2(none_s < ten_s && ten_s < many_s, qPrintable(QString("%1 %2 %3").arg(none_s).arg(ten_s).arg(many_s)));
    }

    /// A running engine gives them out twice a second.
    void aRunningEngineSaysIt()
    {
        Live live(Layout::stereo, 48'000);
        live.setScene(fixture::sceneOf(twoTones(), fixture::toneBuffer()));
        live.setFeet({{0, 0, 0}, 0, 0, 0}, true);
        std::vector<float> block(2 * stepFrames);
        std::shared_ptr<const Costs> last;
        int given = 0;
        for (int i = 0; i < 400; ++i) {
            live.pump();
            live.render(block.data(), stepFrames);
            const auto costs = live.snapshot().costs;
            given += costs != last ? 1 : 0;
            last = costs;
        }
        QVERIFY2(given >= 3 && given <= 5, qPrintable(QString::number(given)));
        QVERIFY(last->sounds.size() == 2 && last->total_s() > 0.0);
    }
};

} // namespace tst_cost

STONE_TEST(tst_cost, TestCost)
#include "tst_cost.moc"
