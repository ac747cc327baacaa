// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/take_desk.h"

#include <QFutureWatcher>
#include <QImage>
#include <QProcess>
#include <QSize>
#include <QTemporaryDir>
#include <QTimer>

#include <memory>

namespace stone
{

class EyesView;
class PlanView;

/// What a film of a take is to be.
struct Film {
    enum class Of { plan, walkThrough };

    Of of = Of::plan;
    QSize size{1280, 720}; ///< even numbers
    int perSecond = 30;
    QString file;
};

/// Makes a film of the take that is looked at, with its sound: the pictures are drawn here, one a turn of the window's loop,
/// and handed to the program ffmpeg, which puts them together. Window thread.
class FilmMaker : public QObject
{
    Q_OBJECT

public:
    FilmMaker(Session& session, Playback& playback, Film film, QObject* parent);
    ~FilmMaker() override;

    /// Where ffmpeg is; empty: it is not installed.
    static QString program();

    void begin();
    /// Leaves nothing behind.
    void stop();

signals:
    void progressed(int per_cent);
    /// One line of what does not work; empty: the film is there.
    void done(const QString& problem);

private:
    void keepSound();
    void run();
    void drawNext();
    QImage picture();
    void finish(const QString& problem);

    Session& session_;
    Playback& playback_;
    TakeDesk& desk_;
    Film film_;
    std::shared_ptr<const Take> take_;
    double cursor_s_; ///< to which the take is put back
    QTemporaryDir folder_;
    QFutureWatcher<QString> sound_;
    std::shared_ptr<std::atomic<bool>> stop_ = std::make_shared<std::atomic<bool>>(false);
    std::unique_ptr<PlanView> plan_;
    std::unique_ptr<EyesView> eyes_;
    QProcess process_;
    QTimer next_;
    int drawn_ = 0;
    int pictures_ = 0;
    bool over_ = false;
};

} // namespace stone
