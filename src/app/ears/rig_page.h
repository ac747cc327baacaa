// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/session/playback.h"

namespace stone
{

/// The rig in use on the bench: where camera and ears are, which way the ears face, and who counts for what.
class RigPage : public ThingForm<Rig>
{
    Q_OBJECT

public:
    RigPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    /// Only where everything is just now.
    void follow() override;

protected:
    const Rig* thing() const override { return session_.project().rigs.find(session_.project().rig); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Rig&)>& change) override;

private:
    QWidget* makeFields();
    QWidget* makeCounting();
    QWidget* makeHead();

    Playback& playback_;
    QLabel* fixed_; ///< what is said of the first person that every project has
    QWidget* fields_;
    std::vector<std::pair<NumberField*, double Pose::*>> heads_;
    QLabel* places_;
};

} // namespace stone
