// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/widgets/number_field.h"

#include <QCheckBox>
#include <QComboBox>
#include <QPushButton>
#include <QWidget>

namespace stone
{

/// Sets something off again and again: a sound at one or all of its emitters, a signal, the character's use of what is near.
/// At once while one listens, or on the walk.
class BurstForm : public QWidget
{
    Q_OBJECT

public:
    BurstForm(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Only the emitters of this sound are offered; empty: everything.
    void showSound(const SoundId& id);

protected:
    void showEvent(QShowEvent* event) override;

private:
    void rebuild();
    void list();
    Burst burst() const;
    void fire();

    Session& session_;
    Playback& playback_;
    SoundId sound_;
    QComboBox* what_;
    QComboBox* where_;
    NumberField* count_;
    NumberField* every_;
    QCheckBox* irregular_;
    QPushButton* fire_;
    QPushButton* stop_;
    QPushButton* onWalk_;
    std::shared_ptr<const Project> shownOf_;
};

} // namespace stone
