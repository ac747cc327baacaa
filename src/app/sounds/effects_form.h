// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/sounds/sound_form.h"

namespace stone
{

/// The effects of a sound in the order in which it goes through them, and a switch to hear it without.
class EffectsForm : public SoundForm
{
    Q_OBJECT

public:
    EffectsForm(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;

private:
    Playback& playback_;
    QCheckBox* bare_;
};

} // namespace stone
