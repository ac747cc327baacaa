#pragma once

#include "app/shell/main_window.h"
#include "app/theme/theme.h"
#include "project/write.h"
#include "support/fixtures.h"

#include <QApplication>
#include <QSettings>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTest>

#include <memory>

/// The real window over a small project, playing through a clock that the test moves.
class WindowFixture
{
public:
    explicit WindowFixture(const std::string& document = {}, bool geometry = false)
    {
        QSettings::setDefaultFormat(QSettings::IniFormat);
        QSettings::setPath(QSettings::IniFormat, QSettings::UserScope, folder.path() + "/settings");
        fixture::writeTone(folder.filePath("tone.wav").toStdString(), 480.0, 1.0);
        if (geometry) {
            QFile::copy(QString(DEMO) + "/level/vellmoor-halt.glb", folder.filePath("level.glb"));
        }
        if (!document.empty()) {
            fixture::writeText(path(), document);
        }
        start();
    }

    /// Closes the window and opens the same project in a new one, as another run of the program would.
    void start()
    {
        window.reset();
        playback.reset();
        session = std::make_unique<stone::Session>(48'000, state.path().toStdString());
        playback = std::make_unique<stone::Playback>(
            *session, [this](const QString& name, int rate, unsigned channels) -> std::unique_ptr<stone::AudioDevice> {
                ++opened;
                if (openDevice) {
                    return openDevice(name, rate, channels);
                }
                auto made = std::make_unique<stone::HandClock>(rate, 256);
                clock = made.get();
                return made;
            });
        window = std::make_unique<stone::MainWindow>(*session, *playback);
        window->resize(1280, 800);
        window->show();
        window->activateWindow();
        if (!QTest::qWaitForWindowActive(window.get())) {
            qWarning("the window did not become active");
        }
        if (std::filesystem::exists(path())) {
            window->openProject(QString::fromStdString(path()));
            waitForLoading();
        }
    }

    void waitForLoading()
    {
        QTRY_VERIFY(!session->loadingLevel());
        QTRY_COMPARE(session->bank().pending(), std::size_t{0});
        QTest::qWait(200); // the findings follow a moment after the last change
    }

    std::string path() const { return folder.filePath("project.json").toStdString(); }
    stone::PlanView& plan() { return window->plan(); }
    const stone::Level& level() const { return session->level(); }
    const stone::Emitter& emitter(const std::string& id) const { return *level().emitters.find({id}); }

    static bool isShown(QObject* object)
    {
        const auto* widget = qobject_cast<QWidget*>(object);
        return widget != nullptr && widget->isVisible();
    }

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
    static void drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers = Qt::NoModifier)
    {
        QTest::mousePress(widget, Qt::LeftButton, modifiers, from.toPoint());
        for (int step = 1; step <= 5; ++step) {
            const QPointF at = from + (to - from) * step / 5.0;
            QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, modifiers);
            QApplication::sendEvent(widget, &move);
        }
        QTest::mouseRelease(widget, Qt::LeftButton, modifiers, to.toPoint());
    }

    /// Chooses from the menus.
    void menu(const QString& text)
    {
        for (QAction* action : window->findChildren<QAction*>()) {
            if (QString(action->text()).remove('&') == text) {
                action->trigger();
                return;
            }
        }
        qFatal("no %s in the menus", qPrintable(text));
    }

    /// Lets time pass, while the window listens: what comes out.
    std::vector<float> pass(double seconds)
    {
        std::vector<float> out;
        for (double t = 0.0; t < seconds; t += 0.02) {
            const auto more = clock->advance(playback->live(), 0.02);
            out.insert(out.end(), more.begin(), more.end());
            playback->tick(0.02);
        }
        return out;
    }

    /// Types a number into a field and leaves it with Enter.
    void type(const char* field, const QString& text)
    {
        auto* spin = find<QAbstractSpinBox>(field);
        spin->setFocus();
        spin->selectAll();
        for (const QChar c : text) {
            QKeyEvent press(QEvent::KeyPress, 0, Qt::NoModifier, QString(c));
            QApplication::sendEvent(spin, &press);
        }
        QTest::keyClick(spin, Qt::Key_Return);
    }

    /// Goes to an entry of a list by the arrow keys.
    void choose(const char* field, const QString& text)
    {
        auto* list = find<QComboBox>(field);
        list->setFocus();
        QTest::keyClick(list, Qt::Key_Home);
        while (list->currentText() != text && list->currentIndex() + 1 < list->count()) {
            QTest::keyClick(list, Qt::Key_Down);
        }
        QCOMPARE(list->currentText(), text);
    }

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
