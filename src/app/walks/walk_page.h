// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/session/playback.h"
#include "app/widgets/cell_table.h"

#include <QLabel>

namespace stone
{

/// The page of a walk: its points with times, speeds, stays and where one looks, to be typed, and what is done with it as a
/// whole.
class WalkPage : public ThingForm<Walk>
{
    Q_OBJECT

public:
    WalkPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    bool isOfSelection() const override { return session_.selected<Walk>() != nullptr; }
    void refresh() override;
    /// Only which point the walk is at.
    void follow() override;

protected:
    const Walk* thing() const override { return session_.selected<Walk>(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Walk&)>& change) override;

private:
    enum Column { timeColumn, speedColumn, stayColumn, eastColumn, northColumn, heightColumn, looksColumn };

    static QStringList rowOf(std::size_t i, const Walk& walk);
    void cellEdited(int row, int column, const QString& text);

    Playback& playback_;
    void fillEyes();
    QWidget* runFields();
    QPushButton* zonesButton(const char* name, const QString& label, const QString& help, std::vector<ZoneId> GoalRun::*zones);

    QLabel* facts_;
    NumberField* speed_; ///< of all of it
    QComboBox* eyes_;    ///< on what they are to be kept
    CellTable* points_;
    std::shared_ptr<const Walk> shown_;
};

} // namespace stone
