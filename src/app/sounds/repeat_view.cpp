// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/repeat_view.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "app/theme/theme.h"
#include "engine/offline.h"

#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>
#include <QtConcurrent>

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr double shortest_s = 60.0;
constexpr double longest_s = 240.0;

} // namespace

/// Two strips: the level over the time that was rendered, with a mark wherever it comes round again, and the likeness by the
/// time in between.
class RepeatView::Strip : public QWidget
{
public:
    Strip() { setMinimumHeight(118); }
    void show(const Repetition& repetition)
    {
        shown_ = repetition;
        setVisible(true);
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override
    {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const QRectF level(0, 12, width(), 38);
        const QRectF likeness(0, 68, width(), 36);
        drawLevel(painter, level);
        drawLikeness(painter, likeness);
    }

private:
    void drawLevel(QPainter& painter, const QRectF& box)
    {
        caption(painter, box, RepeatView::tr("Level, %1").arg(theme::clock(seconds(shown_.level_db.size()))));
        painter.fillRect(box, theme::field);
        const double most = *std::max_element(shown_.level_db.begin(), shown_.level_db.end());
        QPainterPath path(box.bottomLeft());
        for (std::size_t i = 0; i < shown_.level_db.size(); ++i) {
            const double height = std::clamp((shown_.level_db[i] - most + 36.0) / 36.0, 0.0, 1.0);
            path.lineTo(xOf(i, shown_.level_db.size(), box), box.bottom() - height * box.height());
        }
        path.lineTo(box.bottomRight());
        QColor fill = theme::verdigris;
        fill.setAlpha(90);
        painter.fillPath(path, fill);
        painter.setPen(QPen(theme::ochre, 1.2));
        if (shown_.after_s) {
            const double all = seconds(shown_.level_db.size());
            for (double at = *shown_.after_s; at < all; at += *shown_.after_s) {
                const double x = box.left() + box.width() * at / all;
                painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()));
            }
        }
    }
    void drawLikeness(QPainter& painter, const QRectF& box)
    {
        caption(painter, box,
                RepeatView::tr("Likeness with itself, after up to %1").arg(theme::clock(seconds(shown_.likeness.size()))));
        painter.fillRect(box, theme::field);
        const auto yOf = [&](double like) { return box.bottom() - std::clamp(like, 0.0, 1.0) * box.height(); };
        painter.setPen(QPen(theme::line, 1, Qt::DashLine));
        painter.drawLine(QPointF(box.left(), yOf(Repetition::leastLikeness)),
                         QPointF(box.right(), yOf(Repetition::leastLikeness)));
        QPolygonF curve;
        for (std::size_t i = 0; i < shown_.likeness.size(); ++i) {
            curve << QPointF(xOf(i, shown_.likeness.size(), box), yOf(shown_.likeness[i]));
        }
        painter.setPen(QPen(theme::ink, 1.2));
        painter.drawPolyline(curve);
        if (shown_.after_s) {
            const double x = box.left() + box.width() * *shown_.after_s / seconds(shown_.likeness.size());
            painter.setPen(QPen(theme::ochre, 1.6));
            painter.drawEllipse(QPointF(x, yOf(shown_.likenessThere)), 4, 4);
        }
    }
    static void caption(QPainter& painter, const QRectF& box, const QString& text)
    {
        painter.setFont(theme::text(7.5));
        painter.setPen(theme::soft);
        painter.drawText(box.topLeft() + QPointF(0, -3), text);
    }
    static double seconds(std::size_t steps) { return static_cast<double>(steps) * Repetition::step_s; }
    static double xOf(std::size_t i, std::size_t of, const QRectF& box)
    {
        return box.left() + box.width() * static_cast<double>(i) / static_cast<double>(std::max<std::size_t>(of - 1, 1));
    }

    Repetition shown_;
};

RepeatView::RepeatView(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), button_(new QPushButton), words_(new QLabel), strip_(new Strip)
{
    button_->setObjectName("listenForRepeats");
    words_->setObjectName("repetition");
    words_->setWordWrap(true);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 8, 0, 0);
    box->addWidget(button_, 0, Qt::AlignLeft);
    box->addWidget(words_);
    box->addWidget(strip_);
    connect(button_, &QPushButton::clicked, this, [this] { running_ ? stop() : measure(); });
    connect(&watcher_, &QFutureWatcher<Repetition>::progressValueChanged, this, [this] { refresh(); });
    connect(&watcher_, &QFutureWatcher<Repetition>::finished, this, [this] {
        if (!std::exchange(running_, false)) {
            return;
        }
        if (!watcher_.isCanceled() && watcher_.future().resultCount() > 0) {
            found_ = watcher_.result();
        }
        refresh();
    });
    refresh();
}

RepeatView::~RepeatView()
{
    stop();
    watcher_.waitForFinished();
}

void RepeatView::showSound(const SoundId& id)
{
    const auto sound = session_.project().sounds.share(id);
    if (id != id_ || sound != measuredOf_) {
        stop();
        found_.reset();
    }
    id_ = id;
    refresh();
}

void RepeatView::stop()
{
    running_ = false;
    watcher_.cancel();
    refresh();
}

/// As an audition of it sounds from the start on, long enough for its longest loop to come round some times.
void RepeatView::measure()
{
    measuredOf_ = session_.project().sounds.share(id_);
    if (!measuredOf_) {
        return;
    }
    double longest = 0.0;
    for (std::size_t i = 0; i < measuredOf_->files.size(); ++i) {
        const SoundBank::Entry entry = session_.soundEntry(*measuredOf_, i);
        if (entry.buffer) {
            longest = std::max(longest, entry.buffer->seconds());
        }
    }
    const double length_s = std::clamp(4.0 * longest, shortest_s, longest_s);
    const LevelId level = session_.level().id;
    const Audition alone{.sound = id_, .file = {}, .alone = true};
    auto scene = std::make_shared<Scene>(*makeScene(
        std::make_shared<const Project>(withAudition(session_.project(), level, alone)), level, session_.bank(),
        [this](const std::string& file) { return session_.resolve(file); }, Loading::later, {}, {}, forAudition({}, alone)));
    scene->waits = true;
    found_.reset();
    running_ = true;
    watcher_.setFuture(QtConcurrent::run(&workPool(), [scene, length_s](QPromise<Repetition>& promise) {
        promise.setProgressRange(0, 100);
        OfflineJob job{.scene = scene, .to_s = length_s, .ears = [](double) { return Pose{}; }};
        std::vector<float> mono;
        const bool whole = renderOffline(
            job,
            [&](std::span<const float> frames) {
                for (std::size_t i = 0; i + 1 < frames.size(); i += 2) {
                    mono.push_back(0.5F * (frames[i] + frames[i + 1]));
                }
            },
            [&](double share) {
                promise.setProgressValue(static_cast<int>(share * 100.0));
                return !promise.isCanceled();
            });
        if (whole) {
            promise.addResult(listenForRepeats(mono, job.rate));
        }
    }));
    refresh();
}

QString RepeatView::words() const
{
    if (!found_) {
        return {};
    }
    const QString filled = tr("It fills %1 % of the time; its bands swing by %2 dB.")
                               .arg(std::lround(found_->density * 100.0))
                               .arg(found_->swing_db, 0, 'f', 1);
    if (!found_->after_s) {
        return tr("<b>Nothing comes again</b> that one would take for the same. ") + filled;
    }
    const QString again =
        tr("%1 s, %2 % alike").arg(*found_->after_s, 0, 'f', 1).arg(std::lround(found_->likenessThere * 100.0));
    if (!found_->audible()) {
        return tr("It comes again after %1, but is <b>too even for one to hear it</b>. ").arg(again) + filled;
    }
    return tr("<b>You can hear it repeat</b>: after %1. Give it layers of other lengths, or level and pitch that wander. ")
               .arg(again) +
           filled;
}

void RepeatView::refresh()
{
    button_->setText(running_ ? tr("Stop listening: %1 %").arg(watcher_.progressValue()) : tr("Listen for repeats"));
    button_->setToolTip(tr("Renders some minutes of it and finds what comes again"));
    words_->setText(words());
    words_->setVisible(found_.has_value());
    if (found_ && !found_->level_db.empty() && !found_->likeness.empty()) {
        strip_->show(*found_);
    } else {
        strip_->hide();
    }
}

} // namespace stone
