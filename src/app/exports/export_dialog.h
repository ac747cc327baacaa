// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/session/session.h"

#include <QDialog>

namespace stone
{

/// What the project says and plays, written for other programs: tables, sounds as a game wants them, the level, a page to show
/// others, renders. Nothing is written before it is asked for.
class ExportDialog : public QDialog
{
    Q_OBJECT

public:
    ExportDialog(Session& session, Playback& playback, QWidget* parent = nullptr);
};

} // namespace stone
