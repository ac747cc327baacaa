// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/plan/plan_view.h"
#include "app/session/playback.h"
#include "app/widgets/cell_table.h"
#include "posts/solve.h"

#include <QCheckBox>
#include <QDialog>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// Wishes for the selected emitter, pinned where the character stands, and the falloff that meets them: tried before it is
/// accepted, heard and drawn as if it were there.
class SolveDialog : public QDialog
{
    Q_OBJECT

public:
    SolveDialog(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// The wishes as the Plan shows them.
    std::vector<PlanView::PostMark> marks() const;
    const std::vector<Wish>& wishes() const { return wishes_; }
    const Solution& solution() const { return solution_; }

signals:
    void wishesChanged();

protected:
    void hideEvent(QHideEvent* event) override;

private:
    void follow();
    void wishHere(Wish::Of of);
    void typed(int row, int column, const QString& text);
    void removeWish();
    void solveAnew();
    void present(const Solution& solution);
    void tryIt(bool on);
    void accepted();

    Session& session_;
    Playback& playback_;
    EmitterId emitter_;
    std::vector<Wish> wishes_;
    Solution solution_;
    bool solving_ = false;
    QLabel* whose_;
    CellTable* table_;
    QLabel* words_;
    QCheckBox* curve_;
    QCheckBox* level_;
    QCheckBox* try_;
    QPushButton* accept_;
    QPushButton* remove_;
};

} // namespace stone
