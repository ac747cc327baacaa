// SPDX-License-Identifier: GPL-3.0-or-later
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
    /// Shows all lines, or of many the three that change most, with the others together in one.
    void setWhole(bool on);
    /// The middle of a term's line; nothing where it is folded away, or not there.
    std::optional<QPoint> placeOf(TermKind kind) const;

signals:
    /// The line of the walls was clicked, or Enter pressed on the Ledger.
    void wallsClicked();
    /// It is higher or lower now.
    void resized();

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
        std::optional<TermKind> kind; ///< none: several together
        bool operator==(const Line&) const = default;
    };
    void fold();
    std::optional<std::size_t> lineAt(int y) const;

    std::vector<Line> all_;
    std::vector<Line> lines_; ///< that are drawn
    bool whole_ = false;
    double total_db_ = 0.0;
    bool wallsOpen_ = false;
    QString effects_; ///< what besides the level reaches the ears changed
};

} // namespace stone
