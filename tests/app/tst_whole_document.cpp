// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ambience/pad.h"
#include "app/bench/bench_panel.h"
#include "app/crowd/crowd_dialog.h"
#include "app/lists/family_follows.h"
#include "app/walls/material_dialog.h"
#include "app/walls/walls_dialog.h"
#include "app/window_fixture.h"
#include "support/one_of_many.h"
#include "support/random_project.h"

#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPointer>
#include <QPushButton>
#include <QRegularExpression>
#include <QTabBar>
#include <QTableWidget>
#include <QToolButton>

#include <nlohmann/json.hpp>

#include <map>
#include <memory>
#include <set>

namespace tst_whole_document
{

using namespace stone;
using Json = nlohmann::ordered_json;

namespace
{

/// One of each, and each in all the ways that bring up fields of their own.
const std::string oneOfEach = R"({
  "name": "Yard of everything",
  "sounds": [
    {"id": "one", "files": [{"file": "tone.wav"}, {"file": "two.wav"}], "loop": false, "limit": {"at_once": 2}},
    {"id": "run", "make": "run", "gap_most_s": 1, "files": [{"file": "tone.wav"}, {"file": "two.wav"}],
     "lanes": [{"over": "time", "points": [{"x": 0, "y": 0}, {"x": 1, "y": -3}]}]},
    {"id": "slices", "make": "slices", "gap_most_s": 1, "files": [{"file": "tone.wav"}]},
    {"id": "layers", "make": "layers", "files": [{"file": "tone.wav", "level_drift": {"period_s": 9, "drawn": [{"x": 0, "y": 0}, {"x": 4, "y": -3}]}},
                                                 {"file": "two.wav"}]},
    {"id": "mixed", "make": "mixed", "files": [{"file": "tone.wav"}, {"file": "two.wav", "accent": true}]},
    {"id": "loop", "files": [{"file": "two.wav"}]}],
  "falloffs": [{"id": "shared", "lanes": [{"reference_m": 2, "silent_at_m": 20}, {"property": "low_pass", "points": [{"x": 0, "y": 9000}]}]},
               {"id": "drawn", "lanes": [{"shape": "curve", "points": [{"x": 1, "y": 0}, {"x": 9, "y": -20}]}]}],
  "families": [{"id": "all", "limit": {"at_once": 2}, "lanes": [{"over": "game_value", "value": "wind", "points": [{"x": 0, "y": 0}, {"x": 1, "y": -9}]}],
                "other_falloff": "drawn", "other_when": {"value": "wind"}}, {"id": "others"}],
  "game_values": [{"id": "wind"}, {"id": "rain"}],
  "signals": [{"id": "ring"}, {"id": "hush"}],
  "gazes": [{"id": "look", "lanes": [{"over": "gaze", "shape": "two_angles"}]}, {"id": "then", "when": "zone", "zone": "yard"},
            {"id": "until", "when": "signal", "from": "ring", "until": "hush"}],
  "rigs": [{"id": "over", "kind": "over_shoulder"}, {"id": "above", "kind": "from_above", "facing": "fixed"}],
  "rig": "over",
  "patterns": [{"id": "copy", "sound": "loop"}],
  "materials": [{"id": "felt", "words": ["felt"], "absorption": [0.1, 0.1, 0.1, 0.1, 0.1, 0.1, 0.1, 0.1],
                 "loss_db": [1, 2, 3, 4, 5, 6, 7, 8]}],
  "levels": [
    {"id": "yard", "character": {"moves": "cells"}, "storeys": [{"name": "Ground", "floor_m": 0, "cut_m": 1.5}], "places": [{"name": "Gate", "at": [3, 3, 0]}],
     "emitters": [
       {"id": "point", "sound": "one", "falloff": "shared", "family": "all", "at": [1, 2, 1],
        "lanes": [{"over": "off_front", "shape": "two_angles"}],
        "placement": {"in_world": 0.5, "doppler": 1},
        "starting": {"starts": [{"on": "interact"}], "conditions": [{"value": "wind"}], "rearms": [{"on": "signal", "signal": "ring"}], "once": true}},
       {"id": "own", "sound": "loop", "own_falloff": {"lanes": [{"model": "linear", "maximum_m": 20}]}, "at": [4, 2, 1],
        "lanes": [{"over": "direction", "points": [{"x": 0, "y": 0}, {"x": 90, "y": -3}]}],
        "placement": {"channels": "image", "image_deg": 40},
        "riding": {"on": "roamer", "roamer": "cat"}},
       {"id": "ears", "sound": "loop", "falloff": "drawn", "placement": {"in_world": 0}, "at": [4, 4, 1], "pattern": "copy"},
       {"id": "told", "sound": "loop", "falloff": "shared", "at": [6, 2, 1], "riding": {"on": "game", "thing": "tram"}},
       {"id": "bed", "kind": "bed", "sound": "layers", "zone": "yard"},
       {"id": "air", "kind": "bed", "sound": "mixed"},
       {"id": "pond", "kind": "area", "sound": "loop", "falloff": "shared", "area": {"shape": {"is": "line", "points": [[0, 0, 0], [4, 0, 0]], "width_m": 1}}},
       {"id": "roof", "kind": "area", "sound": "loop", "falloff": "shared", "area": {"shape": {"is": "box", "size_m": [4, 4, 3]}}},
       {"id": "drips", "kind": "sprinkle", "sound": "one", "falloff": "shared", "sprinkle": {"answer": "one"}},
       {"id": "drops", "kind": "sprinkle", "sound": "one", "falloff": "shared", "zone": "yard", "sprinkle": {"where": "box"}},
       {"id": "birds", "kind": "sprinkle", "sound": "one", "falloff": "shared", "sprinkle": {"where": "shape", "shape": {"is": "sphere", "radius_m": 4}}},
       {"id": "cat", "kind": "roamer", "sound": "run", "falloff": "shared", "roamer": {"arriving": "one", "by_time": true, "stops": [{"at": [1, 8, 0]}, {"at": [5, 8, 0]}]}},
       {"id": "dog", "kind": "roamer", "sound": "run", "falloff": "shared", "roamer": {"stops": [{"at": [1, 8, 0]}, {"at": [5, 8, 0]}]}},
       {"id": "beat", "kind": "pulse", "sound": "one", "falloff": "shared", "pulse": {"kerbs": true, "steps": true}},
       {"id": "feet", "kind": "steps", "sound": "one", "steps": {"surfaces": [{"surface": "planks", "sound": "one"}]}}],
     "zones": [{"id": "yard", "at": [4, -6, 0], "shape": {"is": "box", "size_m": [8, 8, 3]}},
               {"id": "cart", "at": [4, 6, 0], "riding": {"on": "roamer", "roamer": "cat"}, "shape": {"is": "prism", "points": [[0, 0], [3, 0], [0, 3]], "height_m": 3}},
               {"id": "van", "at": [9, 6, 0], "riding": {"on": "game", "thing": "van"}, "shape": {"is": "box", "size_m": [2, 4, 2]}},
               {"id": "tank", "at": [4, -6, 0], "shape": {"is": "capsule", "from": [0, 0, 0], "to": [1, 0, 0], "radius_m": 1}, "parent": "yard",
                "riding": {"on": "node", "node": "Lift"}}],
     "plants": [{"id": "row", "pattern": "copy"}, {"id": "edge", "pattern": "copy", "where": "edges", "surface": "grass"},
                {"id": "bends", "pattern": "copy", "where": "corners"}, {"id": "strewn", "pattern": "copy", "where": "shape", "shape": {"is": "box", "size_m": [8, 8, 3]}},
                {"id": "named", "pattern": "copy", "where": "nodes"}, {"id": "round", "pattern": "copy", "where": "route"}],
     "rooms": [{"id": "hut", "at": [-9, -6, 0]}, {"id": "hall", "at": [-20, -6, 0], "reverb": {"tail": "none"}}],
     "openings": [{"id": "door", "from": [-9, -4], "to": [-8, -4]}, {"id": "gate", "from": [-9, -8], "to": [-8, -8], "opens_on": "ring"}],
     "walks": [{"id": "round", "points": [{"t_s": 0, "at": [-3, 0, 0]}, {"t_s": 4, "at": [3, 0, 0]}],
                "events": [{"t_s": 2, "is": "signal", "signal": "ring"}, {"t_s": 3, "is": "value", "value": "wind", "to": 1}],
                "run": {"goal": "yard"}}]}]
})";

} // namespace

/// Whatever can stand in a document can be set in the window: every field of every page is used, and what that changes of the
/// document as it is written is held against all that a document can have.
class TestWholeDocument : public QObject
{
    Q_OBJECT

    /// "/levels/0/emitters/3/at/1" is "/levels/emitters/at", whichever it is.
    static std::string kindOf(const std::string& pointer)
    {
        std::string kind;
        for (const QString& part : QString::fromStdString(pointer).split('/', Qt::SkipEmptyParts)) {
            bool number = false;
            part.toInt(&number);
            if (!number && part != "-") {
                kind += '/' + part.toStdString();
            }
        }
        return kind;
    }

    static std::set<std::string> kindsIn(const Json& document)
    {
        std::set<std::string> kinds;
        const Json flat = document.flatten();
        for (const auto& [pointer, value] : flat.items()) {
            // Random documents also have keys of a version that is yet to come.
            const std::string kind = kindOf(pointer);
            if (kind.find("later") == std::string::npos && kind.find("~1") == std::string::npos) {
                kinds.insert(kind);
            }
        }
        return kinds;
    }

    static Json written(const Project& project) { return Json::parse(projectText(project)); }

    /// Adds the kinds of all that is different.
    void addDifferent(const Json& before, const Json& after)
    {
        for (const Json& step : Json::diff(before, after)) {
            const std::string path = kindOf(step["path"].get<std::string>());
            reached_.insert(path);
            if (step.contains("value") && step["value"].is_structured()) {
                const Json flat = step["value"].flatten();
                for (const auto& [pointer, value] : flat.items()) {
                    reached_.insert(path + kindOf(pointer));
                }
            }
        }
    }

    static void use(QWidget* widget)
    {
        if (auto* number = qobject_cast<QDoubleSpinBox*>(widget)) {
            const double step = std::max(number->singleStep(), std::pow(10.0, -number->decimals()));
            const double other = number->value() + step <= number->maximum() ? number->value() + step : number->value() - step;
            number->setFocus();
            number->findChild<QLineEdit*>()->setText(QString::number(other, 'f', number->decimals()));
            QTest::keyClick(number, Qt::Key_Return);
        } else if (auto* list = qobject_cast<QComboBox*>(widget)) {
            list->setFocus();
            QTest::keyClick(list, list->currentIndex() + 1 < list->count() ? Qt::Key_Down : Qt::Key_Up);
        } else if (auto* line = qobject_cast<QLineEdit*>(widget)) {
            line->setFocus();
            QTest::keyClicks(line, "x");
            QTest::keyClick(line, Qt::Key_Return);
        } else if (auto* text = qobject_cast<QPlainTextEdit*>(widget)) {
            text->setFocus();
            QTest::keyClicks(text, "x");
            text->clearFocus();
        } else if (auto* button = qobject_cast<QAbstractButton*>(widget)) {
            button->click();
        }
        QCoreApplication::processEvents();
    }

    /// Fills every cell of a table, one after the other.
    void useTable(WindowFixture& f, QTableWidget* table)
    {
        for (int column = 0; column < table->columnCount() && table->rowCount() > 0; ++column) {
            const auto document = f.session->document();
            if (QTableWidgetItem* cell = table->item(0, column)) {
                bool number = false;
                const double value = cell->text().section(' ', 0, 0).replace(QChar(0x2212), '-').toDouble(&number);
                cell->setText(number                   ? QString::number(value + 0.25)
                              : cell->text().isEmpty() ? QString("1.5")
                                                       : cell->text() + "x");
                QCoreApplication::processEvents();
            }
            takeBack(f, document);
        }
    }

    /// Chooses every entry of a button's menu, those of its menus too.
    void useMenu(WindowFixture& f, QMenu* menu)
    {
        emit menu->aboutToShow();
        for (int i = 0; i < menu->actions().size(); ++i) {
            const auto document = f.session->document();
            if (QMenu* inside = menu->actions()[i]->menu()) {
                if (inside->isEnabled()) {
                    useMenu(f, inside);
                }
            } else {
                menu->actions()[i]->trigger();
                QCoreApplication::processEvents();
                takeBack(f, document);
            }
            if (i >= menu->actions().size()) {
                return;
            }
        }
    }

    /// Adds what has changed to what can be reached, and undoes it.
    bool takeBack(WindowFixture& f, const std::shared_ptr<const Project>& document)
    {
        if (f.session->document() == document) {
            return false;
        }
        addDifferent(written(*document), written(f.session->project()));
        while (f.session->document() != document && !f.session->undoName().isEmpty()) {
            f.session->undo();
        }
        return true;
    }

    static QString buttonText(const QWidget* widget)
    {
        const auto* button = qobject_cast<const QAbstractButton*>(widget);
        return button != nullptr ? button->text() : QString();
    }

    static bool isUsed(const QWidget* widget)
    {
        // These choose what is shown, or what is for these ears alone.
        static const std::set<QString> others{"laneOver",      "pinBench",      "emitterSolo",
                                              "emitterHushed", "followedValue", "gazeWhich"};
        if (others.contains(widget->objectName())) {
            return false;
        }
        const auto* button = qobject_cast<const QAbstractButton*>(widget);
        const bool field =
            qobject_cast<const QDoubleSpinBox*>(widget) != nullptr || qobject_cast<const QComboBox*>(widget) != nullptr ||
            qobject_cast<const QLineEdit*>(widget) != nullptr || qobject_cast<const QPlainTextEdit*>(widget) != nullptr ||
            (button != nullptr && button->isCheckable());
        return field && widget->isVisible() && widget->isEnabled() && widget->objectName() != "qt_spinbox_lineedit" &&
               qobject_cast<const QComboBox*>(widget->parentWidget()) == nullptr;
    }

    /// Uses everything on a page, each field of a name once in `known`; `show` brings the page up again after each.
    void useAll(WindowFixture& f, QWidget* page, const std::string& of, const std::function<void()>& show)
    {
        if (visits_[of]++ >= visitsEach) {
            return;
        }
        show();
        for (const char* name : {"addStart", "addStop", "addRearm", "runCheckpoints", "runPits"}) {
            const QString known = QString::fromStdString(of) + ' ' + name;
            auto* button = page->findChild<QPushButton*>(name);
            if (button != nullptr && WindowFixture::isShown(button) && used_[known]++ < 2) {
                useMenu(f, button->menu());
                show();
            }
        }
        for (QTableWidget* table : page->findChildren<QTableWidget*>()) {
            if (WindowFixture::isShown(table) && used_[QString::fromStdString(of) + table->objectName()]++ < 2) {
                useTable(f, table);
                show();
            }
        }
        std::set<QString> here;
        for (bool more = true; more;) {
            more = false;
            QList<QPointer<QWidget>> widgets; // using one may take others away
            for (QWidget* widget : page->findChildren<QWidget*>()) {
                widgets << widget;
            }
            for (const QPointer<QWidget>& widget : widgets) {
                if (widget.isNull()) {
                    continue;
                }
                const QString called =
                    widget->objectName().isEmpty() ? widget->accessibleName() + ' ' + buttonText(widget) : widget->objectName();
                // What is at the head of every tab is used once.
                const QString tab = QString::fromStdString(of);
                const QString name = (called.startsWith("emitter") ? tab.section('|', 0, 0) : tab) + ' ' + called;
                if (!isUsed(widget) || used_[name] >= often || !here.insert(name).second) {
                    continue;
                }
                ++used_[name];
                const auto document = f.session->document();
                use(widget);
                if (takeBack(f, document)) {
                    used_[name] = often;
                    show();
                    more = true; // widgets may have been made anew
                    break;
                }
            }
        }
    }

    /// What is set by something else than a field, and by what.
    bool elsewhere(const std::string& kind) const
    {
        static const std::pair<QRegularExpression, const char*> others[] = {
            {QRegularExpression("/id$"), "made by the program, once"},
            {QRegularExpression("^/stone_echo$"), "the version of the document"},
            {QRegularExpression(
                 "/shape/(from|to|points|closed|node|triangles|widths_m|height_m|width_m|is|size_m|radius_m|standing)$"),
             "drawn on the Plan and the Section, or fitted to a part of the level (tst_window, tst_rooms_window, "
             "tst_side_on_window)"},
            {QRegularExpression("^/levels/(emitters|places|walks)$"),
             "the list itself: things are added and taken away (tst_window)"},
            {QRegularExpression("/lanes/(over|property|value|model|maximum_m|shape|on)$"),
             "chosen when a lane is added (tst_window)"},
            {QRegularExpression("/fades/(over|property|shape)$"), "chosen when a lane is added (tst_ambience_window)"},
            {QRegularExpression("^/levels/geometry/"), "brought in (tst_housekeeping)"},
            {QRegularExpression("^/(falloffs|signals|game_values)/name$"), "Edit, Names (tst_housekeeping)"},
            {QRegularExpression("^/levels/plants/exceptions"), "said of a copy that is clicked on the Plan (tst_plant_window)"},
            {QRegularExpression("^/seed$"), "Walk, Seed of chance (tst_window)"},
            {QRegularExpression("^/levels/walks/events/"), "put on the walk where it is, from the pad (tst_ambience_window)"},
            {QRegularExpression("^/sounds/files(/file)?$"), "added, or relocated (tst_sound_page)"},
            {QRegularExpression("/points/(x|y|to_next)$"),
             "points of curves are pulled and typed in one kind of strip (tst_widgets)"},
            {QRegularExpression("/level_drift/drawn/"), "in the same kind of strip (tst_small_needs)"},
            {QRegularExpression("^/levels/zones/margins_m$"), "the margin field, of the side that is chosen beside it"},
            {QRegularExpression("/riding/(node|roamer)$"), "chosen from what there is to ride on (tst_ambience_window)"},
            {QRegularExpression("^/sound_targets"), "kept and forgotten where sounds are exported (tst_export_window)"},
            {QRegularExpression("/steps/surfaces/surface$"), "the level's own names"},
            {QRegularExpression("^/game_values/(least|most|smoothing_s|most_on|rest_on)$"),
             "behind the pad's ⋯ (tst_ambience_window)"},
            {QRegularExpression("^/levels/rooms/reverb/response$"), "chosen by a file dialog (tst_reverb_window)"},
        };
        for (const auto& [pattern, how] : others) {
            if (pattern.match(QString::fromStdString(kind)).hasMatch()) {
                return true;
            }
        }
        // A pattern's settings are those of an emitter that is a copy of it, given to all (tst_window).
        const std::string patterns = "/patterns";
        return kind.starts_with(patterns) && (reached_.contains("/levels/emitters" + kind.substr(patterns.size())) ||
                                              elsewhere("/levels/emitters" + kind.substr(patterns.size())));
    }

    std::set<std::string> reached_;
    /// How often a field was used in vain: one that changes nothing in a few things changes nothing.
    std::map<QString, int> used_;
    static constexpr int often = 2;
    std::map<std::string, int> visits_; ///< of pages of a kind
    static constexpr int visitsEach = 4;

    std::unique_ptr<WindowFixture> open_;

private slots:
    void initTestCase()
    {
        open_ = std::make_unique<WindowFixture>();
        fixture::writeTone(open_->folder.filePath("two.wav").toStdString(), 480.0, 3.0, 48'000, 2);
        fixture::writeText(open_->path(), oneOfEach);
        open_->start();
    }

    void usesEveryFieldOfEmitters()
    {
        WindowFixture& f = *open_;
        auto* bench = f.window->findChild<BenchPanel*>();
        for (const auto& emitter : List(f.level().emitters)) {
            f.session->selectOnly(emitter->id);
            auto* tabs = f.find<QTabBar>("benchTabs");
            for (int tab = 0; tab < tabs->count(); ++tab) {
                useAll(f, bench, "emitter " + emitter->id.text + '|' + std::to_string(tab), [&] {
                    f.session->selectOnly(emitter->id);
                    tabs->setCurrentIndex(tab);
                });
            }
        }
    }

    void usesEveryFieldOfTheOtherPages()
    {
        WindowFixture& f = *open_;
        auto* bench = f.window->findChild<BenchPanel*>();
        const auto things = [&](const auto& list, const char* kind) {
            for (const auto& thing : list) {
                using Thing = std::remove_cvref_t<decltype(*thing)>;
                useAll(f, bench, kind + (' ' + thing->id.text), [&] { f.session->selectThing<Thing>(thing->id); });
            }
        };
        things(List(f.level().zones), "zone");
        things(List(f.level().rooms), "room");
        things(List(f.level().openings), "opening");
        things(List(f.level().walks), "walk");
        things(List(f.level().plants), "plant");
        f.session->selectNone();
        useAll(f, bench, "level", [&] { bench->showLevel(true); });
        useAll(f, bench, "rig", [&] { bench->showRig(true); });
        useAll(f, bench, "gaze", [&] { bench->showGaze(true); });
        for (const auto& sound : List(f.session->project().sounds)) {
            bench->showSound(sound->id);
            auto* tabs = f.find<QTabBar>("soundTabs");
            for (int tab = 0; tab < tabs->count(); ++tab) {
                useAll(f, bench, "sound " + sound->id.text + std::to_string(tab), [&] {
                    bench->showSound(sound->id);
                    tabs->setCurrentIndex(tab);
                });
            }
        }
    }

    void usesEveryFieldOfListsAndDialogs()
    {
        WindowFixture& f = *open_;
        f.session->selectNone();
        f.find<QTabBar>("listTabs")->setCurrentIndex(3);
        useAll(f, f.find<QWidget>("families"), "families", [] {});
        const auto inDialog = [&](QDialog* dialog, const char* name) {
            dialog->setAttribute(Qt::WA_DeleteOnClose);
            dialog->show();
            useAll(f, dialog, name, [] {});
            dialog->close();
        };
        inDialog(new WallsDialog(*f.session, f.window.get()), "walls");
        inDialog(new MaterialDialog(*f.session, f.window.get()), "materials");
        inDialog(new Pad(*f.session, *f.playback, f.window.get()), "pad");
        inDialog(new FamilyFollows(*f.session, *f.playback, {"all"}, f.window.get()), "follows");
        inDialog(new CrowdDialog(*f.session, *f.playback, {"all"}, f.window.get()), "limit of a family");
        inDialog(new CrowdDialog(*f.session, *f.playback, f.window.get()), "voices");
    }

    /// What the others have changed is all that there is.
    void everyFieldOfADocumentCanBeSet()
    {
        std::set<std::string> all;
        for (unsigned seed = 1; seed <= 40; ++seed) {
            all.merge(kindsIn(Json::parse(projectText(fixture::randomProject(seed)))));
        }
        QVERIFY(all.size() > 300);
        std::erase_if(all, [&](const std::string& kind) { return elsewhere(kind) || reached_.contains(kind); });
        for (const std::string& kind : all) {
            qWarning("nothing sets %s", kind.c_str());
        }
        QVERIFY(all.empty());
    }
};

} // namespace tst_whole_document

STONE_TEST(tst_whole_document, TestWholeDocument)
#include "tst_whole_document.moc"
