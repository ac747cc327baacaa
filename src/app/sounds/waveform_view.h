// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "media/gathered_peaks.h"

#include <QFutureWatcher>
#include <QWidget>

#include <optional>
#include <utility>
#include <vector>

namespace stone
{

/// A sound's waveform: the wheel zooms to the cursor, dragging moves along, a click asks for listening from there. Shows
/// where every playing copy is.
class WaveformView : public QWidget
{
    Q_OBJECT

public:
    explicit WaveformView(QWidget* parent = nullptr);

    /// Null: nothing to draw yet. The peaks are gathered off the window's thread, or come from where they were kept.
    void showSound(const SharedBuffer& buffer, const std::shared_ptr<const MeasureStore>& kept);
    void showPositions(std::vector<double> seconds);
    /// A loop that is not the whole sound, seconds; a second number of 0 means the end.
    void showLoop(const std::optional<std::pair<double, double>>& loop);
    bool ready() const { return gathered_.has_value(); }
    /// The largest sample between the samples, once it is known. 1: full scale.
    std::optional<double> truePeak() const { return gathered_ ? std::optional(gathered_->truePeak) : std::nullopt; }

    /// What is seen, in seconds.
    double from_s() const { return from_s_; }
    double to_s() const { return to_s_; }

    QSize sizeHint() const override { return {300, 120}; }

signals:
    void listenWanted(double from_s);
    /// The peaks are there.
    void gathered();

protected:
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    void zoom(double factor, double at_s);
    void see(double from_s, double length_s);
    double secondsAt(double x) const;

    SharedBuffer buffer_;
    std::optional<GatheredPeaks> gathered_;
    QFutureWatcher<GatheredPeaks> gathering_; ///< takes too long for the window's thread
    std::optional<std::pair<double, double>> loop_;
    std::vector<double> positions_;
    double from_s_ = 0.0;
    double to_s_ = 1.0;
    double pressedX_ = 0.0;
    double pressedFrom_s_ = 0.0;
    bool moved_ = false;
};

/// The end of a loop and its start, joined, large: 5 ms on each side.
class SeamView : public QWidget
{
    Q_OBJECT

public:
    explicit SeamView(QWidget* parent = nullptr);
    /// The loop, seconds; `to_s` 0: the end.
    void showSound(const SharedBuffer& buffer, double from_s, double to_s);
    QSize sizeHint() const override { return {300, 60}; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    SharedBuffer buffer_;
    double from_s_ = 0.0;
    double to_s_ = 0.0;
};

} // namespace stone
