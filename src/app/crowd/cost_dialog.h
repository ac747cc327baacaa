// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QTableWidget>

#include <map>

namespace stone
{

/// What the level costs while it plays: processor share by stage, by sound and by kind of work, memory by sound, each with the
/// last minute of it.
class CostDialog : public QDialog
{
    Q_OBJECT

public:
    CostDialog(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// What the rows are about.
    enum class By { stage, sound, work };
    /// A row's share of a core now, per cent; 0 where there is none of the name.
    double share(const QString& name) const;

private:
    struct Row {
        QString name;
        QString explanation;
        std::vector<double> history_pct; ///< oldest first
        double voices = -1.0;            ///< below 0: does not apply
        double bytes = -1.0;
    };

    std::vector<Row> rows() const;
    void refresh();
    double bytesOf(const Sound& sound) const;

    Session& session_;
    Playback& playback_;
    QComboBox* by_;
    QTableWidget* table_;
    QLabel* whole_;
    std::shared_ptr<const Costs> shown_;
};

} // namespace stone
