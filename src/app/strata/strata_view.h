// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/take_desk.h"
#include "takes/take_compare.h"
#include "takes/take_layers.h"

#include <QFutureWatcher>
#include <QPixmap>
#include <QWidget>

#include <atomic>
#include <memory>
#include <set>
#include <vector>

namespace stone
{

/// A take over its time: who is heard, as layers as thick as they are loud, and below them, on the same ruler, those of the
/// take that it is compared with; strips of loudness, voices, processor and memory, and of any value that is asked for;
/// signals, values and edits as marks where they came. A line is the moment that everything else shows: it is pulled, or moved
/// by the arrow keys. Kinds differ in their hatching as well as in colour.
class StrataView : public QWidget
{
    Q_OBJECT

public:
    StrataView(Session& session, TakeDesk& desk, QWidget* parent = nullptr);
    ~StrataView() override;

    void layBy(TakeLayers::By by);
    TakeLayers::By by() const { return by_; }
    const TakeLayers& data() const { return read_->first; }
    /// A long take is still being read, on another thread.
    bool reading() const { return reading_.isRunning(); }

    /// Layers that are taken out of view, by key.
    const std::set<std::string>& hidden() const { return hidden_; }
    void hide(const std::string& key);
    void keepOnly(const std::string& key);
    void showAll();
    /// The layer that the keys have come to; empty: none.
    const std::string& chosen() const { return chosen_; }
    /// A strip of its own for a value; see seriesOf(). One line says what does not work.
    QString addStrip(const QString& what, const QString& emitter);
    void clearStrips();
    std::size_t strips() const { return strips_.size(); }

    /// The stretch of time that is shown.
    double from_s() const { return from_s_; }
    double to_s() const { return to_s_; }
    void zoom(double factor, double about_s);
    double xOf(double t_s) const;
    double timeAt(double x) const;
    /// The layer at a place, of either take; null: none.
    const TakeLayers::Layer* layerAt(const QPointF& at) const;

    QSize sizeHint() const override { return {700, 260}; }
    QSize minimumSizeHint() const override { return {300, 160}; }

signals:
    /// An emitter's layer was clicked.
    void emitterChosen(const stone::EmitterId& id);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    bool event(QEvent* event) override;

private:
    /// What is drawn of the two takes.
    struct Read {
        TakeLayers first;
        TakeLayers other;
        std::unique_ptr<const TakeAlignment> alignment; ///< null: there is no other
        std::vector<TakenCost> costs;
        std::vector<TakenCost> otherCosts;
    };
    struct Strip {
        QString name;
        QString unit;
        std::vector<std::pair<double, double>> points;
        std::vector<std::pair<double, double>> other; ///< of the take that is compared with
        double limit = 0.0;                           ///< drawn across; 0: none
        bool fromNothing = true;                      ///< its scale begins at 0
    };
    /// Layers of one take as they are drawn: which, and their upper edges in pixels above the ground, by column.
    struct Band {
        QRectF area;
        std::vector<std::size_t> which;
        std::vector<std::vector<float>> edges;
    };

    static constexpr double ruler_px = 20.0;

    static QString nameOf(const TakeLayers::Layer& layer);
    void reload();
    void take(std::shared_ptr<const Read> read);
    void paintStill();
    std::vector<std::size_t> shownOf(const TakeLayers& layers) const;
    Band bandOf(const TakeLayers& layers, const QRectF& area, double thickest, bool other) const;
    QImage imageOf(const Band& band, const TakeLayers& layers) const;
    void paintBand(QPainter& painter, const Band& band, const TakeLayers& layers) const;
    void paintNames(QPainter& painter, const Band& band, const TakeLayers& layers) const;
    void paintStrip(QPainter& painter, const QRectF& area, const Strip& strip) const;
    void paintRuler(QPainter& painter) const;
    void paintMarks(QPainter& painter) const;
    void paintFindings(QPainter& painter) const;
    std::vector<Strip> usualStrips() const;
    std::vector<std::pair<double, double>> inFirst(std::vector<std::pair<double, double>> points) const;
    QRectF area() const;
    QRectF layersArea() const;
    void show(double from_s, double to_s);
    void choose(int by);
    void redraw();
    QString describe(const QPointF& at) const;

    Session& session_;
    TakeDesk& desk_;
    TakeLayers::By by_ = TakeLayers::By::emitters;
    std::shared_ptr<const Read> read_; ///< never null
    QFutureWatcher<std::shared_ptr<const Read>> reading_;
    std::shared_ptr<std::atomic<bool>> stopReading_;
    std::set<std::string> hidden_;
    std::string chosen_;
    std::vector<Strip> usual_;  ///< that every take has
    std::vector<Strip> strips_; ///< that were asked for
    double from_s_ = 0.0;
    double to_s_ = 1.0;
    QPixmap still_; ///< all but the line
    Band band_;     ///< as they were drawn last
    Band otherBand_;
    bool stale_ = true;
};

} // namespace stone
