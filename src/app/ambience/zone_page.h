// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/ambience/zone_fades.h"
#include "app/forms/shape_fields.h"
#include "app/forms/thing_form.h"
#include "app/session/playback.h"

#include <QLabel>

namespace stone
{

/// The selected zone on the bench: where it is, how it nests, and what belongs to it.
class ZonePage : public ThingForm<Zone>
{
    Q_OBJECT

public:
    ZonePage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    bool isOfSelection() const override { return session_.selected<Zone>() != nullptr; }
    /// What of it reaches the ears now.
    void follow() override;

protected:
    const Zone* thing() const override { return session_.selected<Zone>(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Zone&)>& change) override;

private:
    void refreshMembers();
    void offerSides(const Zone& zone);
    double marginOf(const Zone& zone) const;
    void editMargin(double metres);

    Playback& playback_;
    ShapeFields* shape_;
    QComboBox* side_; ///< all, then each
    ZoneId shown_;    ///< whose sides are offered
    ZoneFades* fades_;
    QLabel* share_;
    QLabel* members_;
};

} // namespace stone
