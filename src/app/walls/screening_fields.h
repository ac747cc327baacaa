// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"

namespace stone
{

/// How the emitter on the bench takes part in occlusion.
class ScreeningFields : public EmitterForm
{
    Q_OBJECT

public:
    ScreeningFields(Session& session, Playback& playback, QWidget* parent = nullptr);
};

} // namespace stone
