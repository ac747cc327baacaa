// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/shell/main_window.h"
#include "project/write.h"
#include "support/fixtures.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include <memory>

/// The real window over a small project, playing through a clock that the test moves.
class WindowFixture
{
public:
    explicit WindowFixture(const std::string& document = {}, bool geometry = false);

    /// Closes the window and opens the same project in a new one, as another run of the program would.
    void start();

    void waitForLoading();

    std::string path() const { return folder.filePath("project.json").toStdString(); }
    stone::PlanView& plan() { return window->plan(); }
    const stone::Level& level() const { return session->level(); }
    const stone::Emitter& emitter(const std::string& id) const { return *level().emitters.find({id}); }

    static bool isShown(QObject* object);

    template <class Widget> Widget* find(const char* name)
    {
        // Parts of the bench have fields of the same name: what a person sees is meant.
        const auto all = window->findChildren<Widget*>(name);
        Widget* found = all.isEmpty() ? nullptr : all.first();
        for (Widget* candidate : all) {
            if (isShown(candidate)) {
                found = candidate;
                break;
            }
        }
        if (found == nullptr) {
            qFatal("the window has no %s", name);
        }
        return found;
    }

    void click(const QPointF& at) { QTest::mouseClick(&plan(), Qt::LeftButton, Qt::NoModifier, at.toPoint()); }

    /// Presses at one place of a widget, moves in a few steps, lets go at another.
    static void drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers = Qt::NoModifier);

    /// Chooses from the menus.
    void menu(const QString& text);

    /// Lets time pass, while the window listens: what comes out.
    std::vector<float> pass(double seconds);

    /// Types a number into a field and leaves it with Enter.
    void type(const char* field, const QString& text);

    /// Goes to an entry of a list by the arrow keys.
    void choose(const char* field, const QString& text);

    QTemporaryDir folder;
    QTemporaryDir state; ///< where the program keeps what is not saved
    std::unique_ptr<stone::Session> session;
    std::unique_ptr<stone::Playback> playback;
    std::unique_ptr<stone::MainWindow> window;
    stone::HandClock* clock = nullptr;
    std::function<std::unique_ptr<stone::AudioDevice>(const QString&, int, unsigned)> openDevice;
    int opened = 0;
};

/// One looped tone five metres ahead of a character that stands at the origin.
inline const std::string oneTone = R"({
  "name": "Test yard",
  "sounds": [{"id": "tone", "name": "Tone", "file": "tone.wav"}],
  "falloffs": [{"id": "yard", "name": "Yard", "lanes": [{"reference_m": 2, "silent_at_m": 20}]}],
  "levels": [{"id": "yard", "emitters": [{"id": "a", "name": "Lamp", "at": [0, 5, 1.6], "sound": "tone", "falloff": "yard"}],
              "walks": [{"id": "w", "name": "Across", "points": [{"t_s": 0, "at": [-8, 0, 0]}, {"t_s": 4, "at": [8, 0, 0]}]}],
              "places": [{"name": "East", "at": [12, 0, 0], "heading_deg": 270}]}]
})";
