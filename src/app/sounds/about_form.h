// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/sounds/sound_form.h"

#include <QLabel>

namespace stone
{

/// Where a sound belongs and comes from, and how it is kept in memory.
class AboutForm : public SoundForm
{
    Q_OBJECT

public:
    explicit AboutForm(Session& session, QWidget* parent = nullptr);
    void refresh() override;

private:
    QLineEdit* tags_;
    QLabel* cost_;
};

} // namespace stone
