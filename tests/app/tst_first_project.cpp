// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/levels/bring_in.h"
#include "app/window_fixture.h"
#include "media/sound_file.h"
#include "project/read.h"
#include "support/boxes.h"
#include "support/one_of_many.h"

#include <QAbstractButton>
#include <QApplication>
#include <QDropEvent>
#include <QFileDialog>
#include <QLineEdit>
#include <QMimeData>
#include <QProcess>
#include <QTimer>

#include <cmath>
#include <filesystem>

namespace tst_first_project
{

using namespace stone;
namespace fs = std::filesystem;

/// From a fresh start, with files of one's own that lie anywhere, to a project that the command line renders: by mouse and
/// keys.
class TestFirstProject : public QObject
{
    Q_OBJECT

    static void drop(QWidget& target, const QString& file, const QPointF& at)
    {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(file)});
        QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&target, &enter);
        QDropEvent event(at, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(&target, &event);
        QCoreApplication::processEvents();
    }

    /// Answers the file dialog that opens next.
    static void answer(const QString& path)
    {
        QTimer::singleShot(400, [path] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            QVERIFY(dialog != nullptr);
            dialog->findChild<QLineEdit*>("fileNameEdit")->setText(path);
            QMetaObject::invokeMethod(dialog, "accept");
        });
    }

private slots:
    void fromOwnFilesToARender()
    {
        QTemporaryDir desktop;
        QTemporaryDir shelf;
        QCoreApplication::setAttribute(Qt::AA_DontUseNativeDialogs);
        const QString yard = desktop.filePath("yard.obj");
        const QString hum = desktop.filePath("hum.wav");
        fixture::writeText(yard.toStdString(), fixture::boxObj("concrete", {-20, -20, -0.3}, {20, 20, 0}));
        fixture::writeTone(hum.toStdString(), 440.0, 3.0);
        WindowFixture f;

        // A level, dropped on the sheet and looked at before it is taken.
        QTimer taking;
        connect(&taking, &QTimer::timeout, this, [&taking] {
            auto* preview = qobject_cast<BringIn*>(QApplication::activeModalWidget());
            auto* take = preview != nullptr ? preview->findChild<QAbstractButton*>("bringInTake") : nullptr;
            if (take != nullptr && take->isEnabled()) {
                taking.stop();
                QTest::mouseClick(take, Qt::LeftButton);
            }
        });
        taking.start(50);
        drop(f.plan(), yard, QPointF(300, 300));
        QTRY_VERIFY(f.session->loadedLevel().mesh() != nullptr);

        // A sound, dropped where it is to be heard.
        f.plan().fitAll();
        drop(f.plan(), hum, f.plan().camera().toScreen(Vec2{0.0, 6.0}));
        QCOMPARE(f.level().emitters.size(), std::size_t{1});
        f.waitForLoading();

        // Listening, and walking there.
        f.window->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(f.window.get()));
        f.plan().setFocus();
        QTest::keyClick(f.window.get(), Qt::Key_Space);
        QVERIFY(f.playback->listening());
        f.pass(0.3);
        QVERIFY(f.playback->heard()[0].audible);
        const Vec3 before = f.playback->feet().at;
        QTest::keyPress(f.window.get(), Qt::Key_W);
        f.pass(1.0);
        QTest::keyRelease(f.window.get(), Qt::Key_W);
        QVERIFY(glm::length(f.playback->feet().at - before) > 0.5);

        // A walk past it, drawn point by point.
        QTest::keyClick(f.window.get(), Qt::Key_L, Qt::ShiftModifier);
        f.click(f.plan().camera().toScreen(Vec2{-6.0, 4.0}));
        f.click(f.plan().camera().toScreen(Vec2{6.0, 4.0}));
        QTest::keyClick(&f.plan(), Qt::Key_Return);
        QCOMPARE(f.level().walks.size(), std::size_t{1});

        // Saved where one says, and rendered by the command line.
        const QString project = shelf.filePath("First yard/project.json");
        fs::create_directory(shelf.filePath("First yard").toStdString());
        answer(project);
        QTest::keyClick(f.window.get(), Qt::Key_S, Qt::ControlModifier);
        QVERIFY(!f.session->changed() && fs::exists(project.toStdString()));
        QCOMPARE(f.session->project().name, std::string("First yard"));
        const Project saved = readProjectFile(project.toStdString()).project;
        QVERIFY(fs::exists(shelf.filePath("First yard/").toStdString() + saved.sounds[0]->files[0].file));
        const QString out = shelf.filePath("walk.wav");
        QProcess render;
        render.start(CLI, {"render", project, "--walk", QString::fromStdString(f.level().walks[0]->name), "--out", out});
        QVERIFY(render.waitForFinished(120'000));
        QVERIFY2(render.exitCode() == 0, render.readAllStandardError());
        // Of its length and width, and loudest beside it, on the left of who walks east past it.
        const SharedBuffer heard = readSoundFile(out.toStdString(), 48'000, false);
        QCOMPARE(heard->channelCount(), std::size_t{2});
        const auto energy = [&](std::size_t channel, double from, double to) {
            double sum = 0.0;
            const auto& samples = heard->channels[channel];
            for (auto i = static_cast<std::size_t>(from * static_cast<double>(samples.size()));
                 i < static_cast<std::size_t>(to * static_cast<double>(samples.size())); ++i) {
                sum += static_cast<double>(samples[i]) * static_cast<double>(samples[i]);
            }
            return sum;
        };
        QVERIFY(energy(0, 0.45, 0.55) > 2.0 * energy(1, 0.45, 0.55));
        QVERIFY(energy(0, 0.45, 0.55) > energy(0, 0.0, 0.1));
    }
};

} // namespace tst_first_project

STONE_TEST(tst_first_project, TestFirstProject)
#include "tst_first_project.moc"
