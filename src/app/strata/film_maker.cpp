// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/strata/film_maker.h"

#include "app/eyes/eyes_view.h"
#include "app/plan/plan_view.h"
#include "app/session/work_pool.h"
#include "media/sound_writer.h"
#include "project/file_error.h"

#include <QElapsedTimer>
#include <QFile>
#include <QPainter>
#include <QStandardPaths>
#include <QtConcurrent>

#include <cmath>

namespace stone
{

namespace
{

/// So many bytes of pictures may wait: more would only fill the memory.
constexpr qint64 waiting_bytes = 24'000'000;

/// The sound of a take as a file that is only there for the film. One line says what does not work.
QString writeSound(const std::filesystem::path& path, const QString& file, const std::shared_ptr<std::atomic<bool>>& stop)
{
    try {
        const Take take(path);
        SoundWriter writer(file.toStdString(), take.info().channels, take.info().rate, take.soundFrames());
        const auto some = static_cast<std::uint64_t>(take.info().rate);
        for (std::uint64_t frame = 0; frame < take.soundFrames() && !*stop; frame += some) {
            writer.write(take.sound(frame, some));
        }
        writer.finish();
        return {};
    } catch (const FileError& error) {
        return QString::fromStdString(error.what());
    }
}

} // namespace

FilmMaker::FilmMaker(Session& session, Playback& playback, Film film, QObject* parent)
    : QObject(parent), session_(session), playback_(playback), desk_(playback.takes()), film_(std::move(film)),
      take_(desk_.take()), cursor_s_(desk_.cursor_s())
{
    next_.setInterval(0);
    connect(&next_, &QTimer::timeout, this, &FilmMaker::drawNext);
    connect(&sound_, &QFutureWatcherBase::finished, this, [this] {
        const QString problem = sound_.result();
        problem.isEmpty() ? run() : finish(problem);
    });
    connect(&process_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart) {
            finish(tr("%1 cannot be started: %2").arg(process_.program(), process_.errorString()));
        }
    });
    connect(&process_, &QProcess::finished, this, [this](int code, QProcess::ExitStatus status) {
        if (status == QProcess::NormalExit && code == 0) {
            finish({});
            return;
        }
        const QStringList said = QString::fromLocal8Bit(process_.readAllStandardError()).trimmed().split('\n');
        finish(tr("ffmpeg did not make the film: %1").arg(said.last()));
    });
}

FilmMaker::~FilmMaker()
{
    *stop_ = true;
    sound_.waitForFinished();
    process_.disconnect(this);
    process_.kill();
    process_.waitForFinished();
}

QString FilmMaker::program()
{
    return QStandardPaths::findExecutable("ffmpeg");
}

void FilmMaker::begin()
{
    if (program().isEmpty()) {
        finish(tr(
            "A film is put together by the program ffmpeg, which is not installed. Install it (on Debian the package ffmpeg) "
            "and try again."));
        return;
    }
    desk_.setPlaying(false);
    if (film_.of == Film::Of::plan) {
        plan_ = std::make_unique<PlanView>(session_, playback_);
        plan_->resize(film_.size);
        plan_->ensurePolished();
        plan_->fitAll();
    } else {
        eyes_ = std::make_unique<EyesView>(session_, playback_);
        eyes_->resize(film_.size);
    }
    pictures_ = std::max(1, static_cast<int>(std::ceil(take_->seconds() * film_.perSecond)));
    if (take_->hasSound()) {
        keepSound();
    } else {
        run();
    }
}

void FilmMaker::keepSound()
{
    sound_.setFuture(QtConcurrent::run(&workPool(), [path = take_->path(), file = folder_.filePath("sound.wav"), stop = stop_] {
        return writeSound(path, file, stop);
    }));
}

void FilmMaker::run()
{
    if (over_) {
        return;
    }
    QStringList arguments{"-hide_banner", "-loglevel", "error", "-y"};
    arguments << "-f"
              << "rawvideo"
              << "-pixel_format"
              << "bgr0"
              << "-video_size" << QString("%1x%2").arg(film_.size.width()).arg(film_.size.height()) << "-framerate"
              << QString::number(film_.perSecond) << "-i"
              << "pipe:0";
    if (take_->hasSound()) {
        arguments << "-i" << folder_.filePath("sound.wav") << "-c:a"
                  << "aac"
                  << "-b:a"
                  << "256k";
    }
    // What every player shows; the crispness of lines is worth some bytes.
    arguments << "-c:v"
              << "libx264"
              << "-pix_fmt"
              << "yuv420p"
              << "-crf"
              << "18"
              << "-f"
              << "mp4" << folder_.filePath("film.mp4");
    process_.start(program(), arguments);
    next_.start();
}

QImage FilmMaker::picture()
{
    QImage image(film_.size, QImage::Format_RGB32);
    if (eyes_) {
        QPainter(&image).drawImage(QRect(QPoint(), film_.size), eyes_->grabFramebuffer());
    } else {
        plan_->render(&image);
    }
    return image;
}

void FilmMaker::drawNext()
{
    if (desk_.take() != take_) {
        finish(tr("The film was not made: its take is not looked at any more."));
        return;
    }
    if (process_.state() != QProcess::Running || process_.bytesToWrite() > waiting_bytes) {
        return;
    }
    // Some at a time: the window, which goes along, is painted once for all of them.
    constexpr qint64 turn_ms = 60;
    QElapsedTimer turn;
    turn.start();
    while (drawn_ < pictures_ && process_.bytesToWrite() <= waiting_bytes && turn.elapsed() < turn_ms) {
        desk_.setCursor(static_cast<double>(drawn_) / film_.perSecond);
        const QImage image = picture();
        process_.write(reinterpret_cast<const char*>(image.constBits()), image.sizeInBytes());
        ++drawn_;
    }
    emit progressed(100 * drawn_ / pictures_);
    if (drawn_ == pictures_) {
        next_.stop();
        process_.closeWriteChannel();
    }
}

void FilmMaker::stop()
{
    finish(tr("Stopped: no film was made."));
}

void FilmMaker::finish(const QString& problem)
{
    if (std::exchange(over_, true)) {
        return;
    }
    next_.stop();
    *stop_ = true;
    QString said = problem;
    if (said.isEmpty()) {
        // Where it is wanted only when all of it is there.
        QFile::remove(film_.file);
        if (!QFile::copy(folder_.filePath("film.mp4"), film_.file)) {
            said = tr("%1 cannot be written: is there room on the disk, and may you write there?").arg(film_.file);
        }
    }
    if (desk_.take() == take_) {
        desk_.setCursor(cursor_s_);
    }
    emit done(said);
}

} // namespace stone
