#pragma once

#include "app/bench/lane_strip.h"
#include "app/bench/number_field.h"
#include "app/session/playback.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// The part of the Bench where a falloff is worked on: which one, its formula in words and numbers, its lane.
class FalloffEditor : public QWidget
{
    Q_OBJECT

public:
    FalloffEditor(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Shows the primary emitter's falloff. Nothing for beds, which have none.
    void refresh();
    /// Only the ears' place on the ruler.
    void refreshEars();

private:
    void chooseFalloff(int index);
    void makeOwn();
    void share();
    void change(const DistanceFormula& formula, const QString& what, const QString& gesture);
    void moveEars(double distance_m);
    std::optional<double> earsDistance() const;

    Session& session_;
    Playback& playback_;
    QComboBox* which_;
    QPushButton* sharing_;
    QComboBox* model_;
    NumberField* reference_;
    NumberField* end_;
    QLabel* endLabel_;
    NumberField* factor_;
    QLabel* formulaText_;
    QLabel* earsText_;
    LaneStrip* strip_;
};

} // namespace stone
