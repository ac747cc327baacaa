// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"

#include <QTreeWidget>

namespace stone
{

/// A gaze on the bench: its lanes over the angle off where somebody looks, how fast it follows, when and for whom it counts.
class GazePage : public ThingForm<Gaze>
{
    Q_OBJECT

public:
    GazePage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    /// Only the angles of what is heard just now.
    void follow() override;

protected:
    const Gaze* thing() const override;
    void edit(const QString& what, const QString& gesture, const std::function<void(Gaze&)>& change) override;

private:
    QWidget* makeFields();
    LaneStack::Source source();
    void make();
    void remove();
    void refreshMembers();
    void tick(QTreeWidgetItem* item, int column);

    Playback& playback_;
    GazeId shown_;
    QComboBox* which_;
    QWidget* fields_;
    LaneStack* lanes_;
    QTreeWidget* members_; ///< families and emitters: for whom, and who is exempt
    QLabel* angles_;
    QLabel* none_;
};

} // namespace stone
