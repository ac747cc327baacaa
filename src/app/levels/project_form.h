// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/session/playback.h"

namespace stone
{

/// What a project has beside its things: its title, how many voices there are, its air.
class ProjectForm : public ThingForm<Project>
{
    Q_OBJECT

public:
    ProjectForm(Session& session, Playback& playback, QWidget* parent = nullptr);

protected:
    const Project* thing() const override { return &session_.project(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Project&)>& change) override;
};

} // namespace stone
