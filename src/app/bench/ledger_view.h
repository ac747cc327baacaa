#pragma once

#include "hearing/model.h"
#include "hearing/reasons.h"

#include <QWidget>

#include <optional>

namespace stone
{

/// The sum from the recorded level to the level at the ears, term by term, each bar where the one before ended.
class LedgerView : public QWidget
{
    Q_OBJECT

public:
    explicit LedgerView(QWidget* parent = nullptr);

    /// The sum of its lines.
    double total_db() const { return total_db_; }
    /// `moment`: at which it is heard.
    void showHeard(const HearingModel& model, const Moment& moment, const std::optional<Heard>& heard);
    QSize sizeHint() const override;
    /// Whether the line of the walls shows that it is opened.
    void setWallsOpen(bool on);

signals:
    /// The line of the walls was clicked, or Enter pressed on the Ledger.
    void wallsClicked();

protected:
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Line {
        QString name;
        QString why;
        double db;
        bool walls;
        bool operator==(const Line&) const = default;
    };
    std::vector<Line> lines_;
    double total_db_ = 0.0;
    bool wallsOpen_ = false;
    QString effects_; ///< what besides the level reaches the ears changed
};

} // namespace stone
