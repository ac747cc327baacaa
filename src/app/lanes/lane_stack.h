// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lanes/lane_fields.h"
#include "app/lanes/lane_scale.h"
#include "app/lanes/lane_strip.h"

#include <QCheckBox>
#include <QToolButton>

#include <functional>
#include <vector>

namespace stone
{

/// All lanes over one thing: one of them large with its numbers, the others as rows beneath, drawn over the same ruler.
/// Knows nothing of whose lanes they are.
class LaneStack : public QWidget
{
    Q_OBJECT

public:
    /// Whose lanes these are, and what happens with them.
    struct Source {
        std::function<std::vector<Lane>()> lanes;
        /// `what` happened to which property, for the history; one `gesture` is one step.
        std::function<void(std::vector<Lane>, const QString& what, const QString& gesture)> change;
        std::function<void()> endGesture;
        /// Where the ears are on the ruler.
        std::function<std::optional<double>()> place;
        /// The lanes to compare with; empty when there are none.
        std::function<std::vector<Lane>()> ghost;
        std::function<void(double)> preview;
        std::function<void()> endPreview;
    };

    /// `first`: the lane that is always there, and large to begin with.
    LaneStack(LaneInput over, std::vector<LaneProperty> offered, Source source, QWidget* parent = nullptr);

    /// Shows the lanes as they are now, over another input when one is given.
    void refresh();
    /// `value` and the ends of what it can be: over a game value.
    void setInput(LaneInput over, const GameValueId& value = {}, const lanes::Stretch& ends = {0.0, 1.0});
    /// Those that would have no effect are not offered, but shown where they are.
    void withhold(std::vector<LaneProperty> properties);
    /// Only the ears' place and the values there.
    void refreshPlace();

    LaneStrip* strip() { return strip_; }
    /// Makes a lane large; adds it when it is not there yet.
    void enlarge(LaneProperty property);

private:
    class Row;

    bool isMine(const Lane& lane) const { return lane.over == over_ && lane.value == value_; }
    std::vector<Lane> mine() const;
    const Lane* find(const std::vector<Lane>& lanes, LaneProperty property) const;
    void put(const Lane& lane, const QString& what, const QString& gesture);
    void remove(LaneProperty property);
    void showLarge();
    Lane freshLane(LaneProperty property) const;

    LaneInput over_;
    GameValueId value_;
    lanes::Stretch ends_{0.0, 1.0};
    std::vector<LaneProperty> offered_;
    std::vector<LaneProperty> withheld_;
    Source source_;
    LaneProperty large_;
    std::optional<LaneProperty> laidOver_;
    QLabel* words_;
    QLabel* empty_;
    LaneFields* fields_;
    LaneStrip* strip_;
    QLabel* hint_; ///< what changes with the ears, in a place of its own
    QWidget* hintPlace_;
    std::vector<Row*> rows_;
    QLabel* adding_; ///< links to lanes that are not there yet
};

} // namespace stone
