// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "geometry/vec.h"

#include <QWidget>

#include <vector>

namespace stone
{

/// A section of a map along a line: its numbers over the way, with the lines' levels as rules.
class MapSection : public QWidget
{
    Q_OBJECT

public:
    explicit MapSection(QWidget* parent = nullptr);

    /// `numbers`: evenly along `length_m`; those without a number leave a gap. `step`: between rules.
    void show(std::vector<double> numbers, double length_m, double step);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    std::vector<double> numbers_;
    double length_m_ = 0.0;
    double step_ = 6.0;
};

} // namespace stone
