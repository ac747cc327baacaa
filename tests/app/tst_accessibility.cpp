// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/bench_panel.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"

#include <QAccessible>
#include <QTest>

#include <map>

namespace tst_accessibility
{

using namespace stone;

namespace
{

const std::string everything = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
  "levels": [{"id": "yard",
              "emitters": [{"id": "point", "name": "Lamp", "at": [0, 9, 1.6], "sound": "tone", "falloff": "yard"},
                           {"id": "bed", "name": "Air", "kind": "bed", "sound": "tone"},
                           {"id": "area", "name": "Roof", "kind": "area", "sound": "tone"},
                           {"id": "sprinkle", "name": "Drips", "kind": "sprinkle", "sound": "tone"},
                           {"id": "roamer", "name": "Cat", "kind": "roamer", "sound": "tone"},
                           {"id": "steps", "name": "Steps", "kind": "steps", "sound": "tone"}],
              "zones": [{"id": "z", "name": "Shed", "at": [10, 0, 0]}],
              "rooms": [{"id": "r", "name": "Hall", "at": [-10, 0, 0]}],
              "openings": [{"id": "o", "name": "Door", "from": [-5, 0], "to": [-4, 0]}],
              "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [-8, 0, 0]}, {"t_s": 4, "at": [8, 0, 0]}]}]}]
})";

/// Everything that the keyboard reaches and that says nothing of itself to who cannot see it.
QStringList nameless(QWidget* of)
{
    QStringList found;
    for (QWidget* widget : of->findChildren<QWidget*>()) {
        const bool reached =
            widget->isVisible() && (widget->focusPolicy() & Qt::TabFocus) != 0 && widget->focusProxy() == nullptr;
        const bool inside = widget->objectName().startsWith("qt_");
        if (!reached || inside) {
            continue;
        }
        QAccessibleInterface* access = QAccessible::queryAccessibleInterface(widget);
        if (access == nullptr || access->text(QAccessible::Name).trimmed().isEmpty()) {
            found << QString("%1 %2").arg(widget->metaObject()->className(), widget->objectName());
        }
    }
    return found;
}

} // namespace

/// Whoever works with a screen reader hears what each field is.
class TestAccessibility : public QObject
{
    Q_OBJECT

private slots:
    /// No key does two things: of two the desktop would ask neither.
    void noKeyIsTwoActions()
    {
        WindowFixture f(oneTone);
        std::map<QString, QString> keys;
        for (const QAction* action : f.window->findChildren<QAction*>()) {
            for (const QKeySequence& key : action->shortcuts()) {
                if (key.isEmpty()) {
                    continue;
                }
                const auto [known, fresh] = keys.try_emplace(key.toString(), action->text());
                QVERIFY2(fresh, qPrintable(key.toString() + " is " + known->second + " and " + action->text()));
            }
        }
        QVERIFY(keys.size() > 60);
    }

    void everyFieldHasAName()
    {
        WindowFixture f(everything);
        QStringList found;
        const auto look = [&](const QString& where) {
            QCoreApplication::processEvents();
            for (const QString& one : nameless(f.window.get())) {
                found << where + ": " + one;
            }
        };
        look("nothing selected");
        for (const char* id : {"point", "bed", "area", "sprinkle", "roamer", "steps"}) {
            f.session->selectOnly({id});
            auto* tabs = f.find<QTabBar>("benchTabs");
            for (int tab = 0; tab < tabs->count(); ++tab) {
                tabs->setCurrentIndex(tab);
                look(QString("%1, %2").arg(id, tabs->tabText(tab)));
            }
        }
        f.session->selectThing<Zone>({"z"});
        look("zone");
        f.session->selectThing<Room>({"r"});
        look("room");
        f.session->selectThing<Opening>({"o"});
        look("opening");
        f.session->selectThing<Walk>({"w"});
        look("walk");
        f.session->selectNone();
        auto* bench = f.window->findChild<BenchPanel*>();
        bench->showLevel(true);
        look("level");
        bench->showRig(true);
        look("rig");
        bench->showGaze(true);
        look("gaze");
        bench->showSound({"tone"});
        look("sound");
        found.removeDuplicates();
        for (const QString& one : found) {
            qWarning() << one; // a message of QVERIFY2 is cut off
        }
        QVERIFY(found.isEmpty());
    }
};

} // namespace tst_accessibility

STONE_TEST(tst_accessibility, TestAccessibility)
#include "tst_accessibility.moc"
