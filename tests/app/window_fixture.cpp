// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window_fixture.h"

#include "app/theme/theme.h"

#include <QApplication>
#include <QRegularExpression>
#include <QSettings>

WindowFixture::WindowFixture(const std::string& document, bool geometry)
{
    // What Qt complains of is a fault of the window's, seen or not.
    QTest::failOnWarning(QRegularExpression("^Q[A-Z][A-Za-z]+::"));
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

void WindowFixture::start()
{
    window.reset();
    playback.reset();
    session = std::make_unique<stone::Session>(48'000, state.path().toStdString(), state.filePath("cache").toStdString());
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

void WindowFixture::waitForLoading()
{
    constexpr int slowMachine_ms = 60'000;
    QTRY_VERIFY_WITH_TIMEOUT(!session->loadingLevel(), slowMachine_ms);
    QTRY_COMPARE_WITH_TIMEOUT(session->bank().pending(), std::size_t{0}, slowMachine_ms);
    QTRY_VERIFY_WITH_TIMEOUT(!session->examining(), slowMachine_ms);
}

bool WindowFixture::isShown(QObject* object)
{
    const auto* widget = qobject_cast<QWidget*>(object);
    return widget != nullptr && widget->isVisible();
}

void WindowFixture::drag(QWidget* widget, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers)
{
    QTest::mousePress(widget, Qt::LeftButton, modifiers, from.toPoint());
    for (int step = 1; step <= 5; ++step) {
        const QPointF at = from + (to - from) * step / 5.0;
        QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, modifiers);
        QApplication::sendEvent(widget, &move);
    }
    QTest::mouseRelease(widget, Qt::LeftButton, modifiers, to.toPoint());
}

void WindowFixture::menu(const QString& text)
{
    for (QAction* action : window->findChildren<QAction*>()) {
        if (QString(action->text()).remove('&') == text) {
            action->trigger();
            return;
        }
    }
    qFatal("no %s in the menus", qPrintable(text));
}

std::vector<float> WindowFixture::pass(double seconds)
{
    std::vector<float> out;
    for (double t = 0.0; t < seconds; t += 0.02) {
        stone::TakePlayer* take = playback->takes().listening().player();
        const auto more = clock->advance(take != nullptr ? static_cast<stone::Played&>(*take) : playback->live(), 0.02);
        out.insert(out.end(), more.begin(), more.end());
        playback->tick(0.02);
    }
    return out;
}

void WindowFixture::type(const char* field, const QString& text)
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

void WindowFixture::choose(const char* field, const QString& text)
{
    auto* list = find<QComboBox>(field);
    list->setFocus();
    QTest::keyClick(list, Qt::Key_Home);
    while (list->currentText() != text && list->currentIndex() + 1 < list->count()) {
        QTest::keyClick(list, Qt::Key_Down);
    }
    QCOMPARE(list->currentText(), text);
}
