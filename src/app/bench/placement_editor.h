// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/session/playback.h"
#include "app/walls/screening_fields.h"
#include "app/widgets/number_field.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>

namespace stone
{

/// From where and how wide a sound comes: in the world or fixed in the ears, spread, near range, image, Doppler, air.
/// What has no effect is out of reach and says why.
class PlacementEditor : public Page
{
    Q_OBJECT

public:
    PlacementEditor(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;

private:
    void edit(const QString& what, const QString& gesture, const std::function<void(Placement&)>& change);
    NumberField* field(const char* name, const QString& unit, double least, double most, int decimals, double step,
                       double Placement::*member, double scale = 1.0);
    static void allow(QWidget* widget, bool allowed, const QString& help, const QString& why);

    Session& session_;
    QButtonGroup* where_;
    ScreeningFields* screening_;
    NumberField* share_;
    NumberField* azimuth_;
    NumberField* elevation_;
    NumberField* spread_;
    NumberField* near_;
    QComboBox* speaker_;
    QComboBox* channels_;
    NumberField* image_;
    QCheckBox* turns_;
    NumberField* doppler_;
    NumberField* limit_;
    QCheckBox* air_;
    QLabel* words_;
};

} // namespace stone
