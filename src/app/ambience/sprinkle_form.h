// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"

#include <QLabel>

namespace stone
{

/// When and where the one-shots of a sprinkle fall, and what came of it.
class SprinkleForm : public EmitterForm
{
    Q_OBJECT

public:
    SprinkleForm(Session& session, Playback& playback);
    void refresh() override;
    /// What has fallen so far, beside what is expected.
    void follow() override;

private:
    QLabel* expected_;
    QLabel* measured_;
};

} // namespace stone
