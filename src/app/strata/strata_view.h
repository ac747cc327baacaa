#pragma once

#include "app/session/take_desk.h"
#include "app/strata/strata_data.h"
#include "takes/take_compare.h"

#include <QPixmap>
#include <QWidget>

namespace stone
{

/// A take over its time: who is heard, as layers as thick as they are loud; below them strips of loudness, voices, processor
/// and memory, and of any value that is asked for; signals, values and edits as marks where they came. A line is the moment
/// that everything else shows: it is pulled, or moved by the arrow keys.
class StrataView : public QWidget
{
    Q_OBJECT

public:
    StrataView(Session& session, TakeDesk& desk, QWidget* parent = nullptr);

    void layBy(StrataData::By by);
    StrataData::By by() const { return by_; }
    const StrataData& data() const { return data_; }

    /// Layers that are taken out of view, by key.
    const std::set<std::string>& hidden() const { return hidden_; }
    void hide(const std::string& key);
    void keepOnly(const std::string& key);
    void showAll();
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
    /// The layer at a place; null: none.
    const StrataData::Layer* layerAt(const QPointF& at) const;

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
    struct Strip {
        QString name;
        QString unit;
        std::vector<std::pair<double, double>> points;
        std::vector<std::pair<double, double>> other; ///< of the take that is compared with
        double limit = 0.0;                           ///< drawn across; 0: none
        bool fromNothing = true;                      ///< its scale begins at 0
    };

    void reload();
    void paintStill();
    void paintLayers(QPainter& painter, const QRectF& area) const;
    void paintStrip(QPainter& painter, const QRectF& area, const Strip& strip) const;
    void paintRuler(QPainter& painter) const;
    void paintMarks(QPainter& painter) const;
    void paintFindings(QPainter& painter) const;
    std::vector<Strip> allStrips() const;
    std::vector<std::pair<double, double>> inFirst(std::vector<std::pair<double, double>> points) const;
    QRectF area() const;
    QRectF layersArea() const;
    std::vector<const StrataData::Layer*> shownLayers() const;
    std::vector<std::vector<float>> stacked(const QRectF& area) const;
    double thickest() const;
    void show(double from_s, double to_s);
    QString describe(const QPointF& at) const;

    Session& session_;
    TakeDesk& desk_;
    StrataData::By by_ = StrataData::By::sounds;
    StrataData data_;
    StrataData other_;
    std::unique_ptr<TakeAlignment> alignment_;
    std::set<std::string> hidden_;
    std::vector<Strip> strips_; ///< that were asked for
    double from_s_ = 0.0;
    double to_s_ = 1.0;
    QPixmap still_; ///< all but the line
    bool stale_ = true;
};

} // namespace stone
