// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/merge.h"

#include <QComboBox>
#include <QDialog>

#include <vector>

namespace stone
{

/// Asks what to do where a document was changed on the disk by something else: put both together, with a choice for each
/// thing that was changed in both, write over it, or leave it.
class ChangedOnDisk : public QDialog
{
    Q_OBJECT

public:
    enum class Answer { nothing, both, over };

    /// `changes`: what is there and not here, in lines. `clashes`: see merged(). `trouble`: why the two cannot be put together;
    /// empty: they can.
    ChangedOnDisk(const QString& document, const QString& changes, const std::vector<Clash>& clashes, const QString& trouble,
                  QWidget* parent = nullptr);

    Answer answer() const { return answer_; }
    /// By clash.
    std::vector<Wins> wins() const;

private:
    QWidget* makeClashes(const std::vector<Clash>& clashes);
    void end(Answer answer);

    std::vector<QComboBox*> choices_;
    Answer answer_ = Answer::nothing;
};

} // namespace stone
