// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/crowd/crowd_panel.h"

#include <QDialog>

namespace stone
{

/// The limit of a family, or of the level, with the picture of its voices. Stays beside the window.
class CrowdDialog : public QDialog
{
    Q_OBJECT

public:
    /// Of a family.
    CrowdDialog(Session& session, Playback& playback, const FamilyId& family, QWidget* parent = nullptr);
    /// Of the level.
    CrowdDialog(Session& session, Playback& playback, QWidget* parent = nullptr);

private:
    void arrange(CrowdPanel* panel, const QString& explanation);
};

} // namespace stone
