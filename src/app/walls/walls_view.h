// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "hearing/model.h"

#include <QLabel>
#include <QWidget>

#include <optional>

namespace stone
{

/// What the line "Walls" of the Ledger opens into: the loss in each band, what stops how many rays, and which ways lead round.
class WallsView : public QWidget
{
    Q_OBJECT

public:
    explicit WallsView(QWidget* parent = nullptr);
    void showExplained(const HearingModel& model, const std::optional<Explained>& told);

private:
    class Bars;

    Bars* bars_;
    QLabel* words_;
};

} // namespace stone
