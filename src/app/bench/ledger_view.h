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
    void showHeard(const HearingModel& model, const std::optional<Heard>& heard);
    QSize sizeHint() const override;

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Line {
        QString name;
        QString why;
        double db;
        bool operator==(const Line&) const = default;
    };
    std::vector<Line> lines_;
    double total_db_ = 0.0;
    QString effects_; ///< what besides the level reaches the ears changed
};

} // namespace stone
