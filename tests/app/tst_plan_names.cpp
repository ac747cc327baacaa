#include "app/window_fixture.h"

#include <QSettings>
#include <QTest>

#include <algorithm>
#include <set>

using namespace stone;

/// The Plan of the demo stays readable: where names are written while one walks through it.
class TestPlanNames : public QObject
{
    Q_OBJECT

private slots:
    /// At two hundred moments of the demo's walk and three zooms no name lies on another, and something is named.
    void noTwoNamesMeet()
    {
        WindowFixture f;
        f.window->openProject(DEMO);
        f.waitForLoading();
        f.session->selectOnly(f.level().emitters[0]->id);
        constexpr int moments = 200;
        std::set<std::size_t> counts;
        for (const double zoom : {1.0, 2.2, 2.2}) {
            f.plan().zoomBy(zoom);
            for (int i = 0; i < moments; ++i) {
                f.playback->seekWalk(f.playback->walkLength_s() * i / (moments - 1));
                f.session->selectOnly(f.level().emitters[static_cast<std::size_t>(i) % f.level().emitters.size()]->id);
                f.plan().repaint();
                const auto& boxes = f.plan().labelBoxes();
                counts.insert(boxes.size());
                for (std::size_t a = 0; a < boxes.size(); ++a) {
                    QVERIFY(f.plan().rect().contains(boxes[a].toAlignedRect()));
                    for (std::size_t b = 0; b < a; ++b) {
                        QVERIFY2(!boxes[a].intersects(boxes[b]), qPrintable(QString("moment %1, zoom %2").arg(i).arg(zoom)));
                    }
                }
            }
        }
        QVERIFY2(*counts.begin() >= 3, qPrintable(QString::number(*counts.begin())));
        QVERIFY2(*counts.rbegin() >= 20, qPrintable(QString::number(*counts.rbegin())));
    }
};

QTEST_MAIN(TestPlanNames)
#include "tst_plan_names.moc"
