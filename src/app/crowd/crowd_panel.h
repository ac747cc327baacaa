// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/crowd/voices_view.h"
#include "app/forms/limit_fields.h"
#include "app/session/playback.h"

#include <QLabel>

namespace stone
{

/// A limit with the picture of what it does: of a sound, of a family's members, or of the level.
class CrowdPanel : public QWidget
{
    Q_OBJECT

public:
    /// `name`: before the names of its fields.
    CrowdPanel(VoicesView::Of of, const QString& name, Session& session, Playback& playback, QWidget* parent = nullptr);

    void showSound(const SoundId& id);
    void showFamily(const FamilyId& id);
    void refresh();

private:
    Limit limit() const;
    void edit(const QString& what, const QString& gesture, const std::function<void(Limit&)>& change);
    void tellWhoGaveWay();

    VoicesView::Of of_;
    Session& session_;
    Playback& playback_;
    SoundId sound_;
    FamilyId family_;
    LimitFields* fields_;
    VoicesView* view_;
    QLabel* now_;
    QLabel* gaveWay_;
};

} // namespace stone
