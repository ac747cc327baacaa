// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <QDialog>

namespace stone
{

/// What the project says and plays, written for other programs: tables, and sounds as a game wants them. Nothing is written
/// before it is asked for.
class ExportDialog : public QDialog
{
    Q_OBJECT

public:
    explicit ExportDialog(Session& session, QWidget* parent = nullptr);
};

} // namespace stone
