// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/widgets/number_field.h"
#include "project/limit.h"

#include <QCheckBox>
#include <QComboBox>
#include <QWidget>

#include <functional>

namespace stone
{

/// Fields for a limit on copies: how many at once, counted over whom, who gives way, hold-off.
class LimitFields : public QWidget
{
    Q_OBJECT

public:
    /// Which fields there are. The level's count is its voices: never none, and of no single emitter.
    enum class Of { sound, family, level };

    /// `name`: before the names of the fields.
    LimitFields(Of of, const QString& name, QWidget* parent = nullptr);

    void present(const Limit& limit);

signals:
    /// What a person has changed: in words, the run of changes that it belongs to, and how.
    void edited(const QString& what, const QString& gesture, const std::function<void(stone::Limit&)>& change);
    void gestureEnded();

private:
    Of of_;
    NumberField* atOnce_;
    QComboBox* givesWay_;
    QCheckBox* each_;
    NumberField* holdOff_;
};

/// "the quietest", "the oldest", ...
QString givesWayText(GivesWay rule);

} // namespace stone
