// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"

#include <QLabel>

namespace stone
{

/// What a pulse tells of, how far, and how fast it beats.
class PulseForm : public EmitterForm
{
    Q_OBJECT

public:
    PulseForm(Session& session, Playback& playback);
    void refresh() override;
    void follow() override { showNow(); }

private:
    void showNow();

    QLabel* now_;
};

/// An edge's kind and how far it is, as one says it: "drop 2.3 m".
QString toldOf(const PulseState::Hazard& hazard);

} // namespace stone
