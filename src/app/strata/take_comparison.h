// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"
#include "app/session/take_desk.h"
#include "takes/take_compare.h"

#include <QDialog>
#include <QFutureWatcher>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>

#include <atomic>
#include <memory>

namespace stone
{

/// What was changed between two takes, and what that did: to whom, by how much, where most; and the whole of both. A click goes
/// to the moment. Stays beside the window.
class TakeComparisonDialog : public QDialog
{
    Q_OBJECT

public:
    TakeComparisonDialog(Session& session, TakeDesk& desk, QWidget* parent = nullptr);
    ~TakeComparisonDialog() override;

    bool ready() const { return comparison_ != nullptr; }

private:
    void begin();
    void fill(const TakeComparison& comparison);
    void fillParts(const std::vector<TakeStretch>& stretches);
    void bringBack();

    Session& session_;
    TakeDesk& desk_;
    std::shared_ptr<const Take> first_; ///< the one that it is compared with
    std::shared_ptr<const Take> second_;
    QLabel* title_;
    QProgressBar* progress_;
    QTableWidget* changed_;
    QTableWidget* did_;
    QTableWidget* whole_;
    QTableWidget* parts_; ///< shown where the two went freely
    QPushButton* back_ = nullptr;
    std::shared_ptr<const TakeComparison> comparison_;
    std::shared_ptr<std::atomic<bool>> stop_;
    QFutureWatcher<std::shared_ptr<const TakeComparison>> work_;
};

} // namespace stone
