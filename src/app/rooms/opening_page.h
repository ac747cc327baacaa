// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/session/playback.h"

#include <QLabel>

namespace stone
{

/// The selected opening on the bench: where it is, how far it stands open, and what it joins.
class OpeningPage : public ThingForm<Opening>
{
    Q_OBJECT

public:
    OpeningPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    bool isOfSelection() const override { return session_.selected<Opening>() != nullptr; }

protected:
    const Opening* thing() const override { return session_.selected<Opening>(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Opening&)>& change) override;

private:
    Playback& playback_;
    QLabel* joins_;
};

} // namespace stone
