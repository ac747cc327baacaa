// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lanes/lane_fields.h"

#include "acoustics/distance.h"
#include "app/theme/labels.h"
#include "project/settings.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QSignalBlocker>

#include <cmath>

namespace stone
{

namespace
{

QString formulaOf(DistanceModel model)
{
    switch (model) {
    case DistanceModel::inverse: return QObject::tr("ref ÷ (ref + factor × (d − ref))");
    case DistanceModel::linear: return QObject::tr("1 − factor × (d − ref) ÷ (max − ref)");
    case DistanceModel::exponential: return QObject::tr("(d ÷ ref) ^ −factor");
    }
    return {};
}

/// Fields with a caption over each, close together.
QGridLayout* fieldGrid(QWidget* parent)
{
    auto* grid = new QGridLayout(parent);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    return grid;
}

bool endsAtMaximum(const DistanceFormula& formula)
{
    return formula.model == DistanceModel::linear && formula.factor >= 1.0;
}

/// Where a formula is sampled between full (0) and silent (1) to become a curve.
constexpr double samplesAt[] = {0.0, 0.08, 0.25, 0.55, 0.85};

} // namespace

Curve curveOf(const Lane& lane)
{
    Lane on = lane;
    on.on = true;
    Curve curve;
    if (lane.shape == LaneShape::formula) {
        const double full = fullUpTo_m(lane.formula);
        const double silent = std::max(silentOrFaint_m(lane), full + 0.1);
        for (const double t : samplesAt) {
            const double x = std::round((full + (silent - full) * t) * 100.0) / 100.0;
            curve.push_back({x, std::round(std::max(laneAt(on, x), laneSilent_db) * 10.0) / 10.0, Segment::smooth});
        }
        curve.push_back({silent, laneSilent_db, Segment::straight});
    } else if (lane.shape == LaneShape::twoAngles) {
        curve = {{lane.angles.inner_deg / 2.0, lane.angles.inside, Segment::smooth},
                 {lane.angles.outer_deg / 2.0, lane.angles.behind, Segment::straight}};
    }
    return curve;
}

LaneFields::LaneFields(QWidget* parent)
    : QWidget(parent), shape_(new QComboBox), pages_(new QStackedWidget),
      reference_(new NumberField("m", rangeOf(&DistanceFormula::reference_m), 2, 0.5)),
      stays_(new NumberField("m", rangeOf(&DistanceFormula::staysFrom_m), 2, 1.0)),
      staysLabel_(theme::caption(tr("Stays from"), stays_)),
      end_(new NumberField("m", rangeOf(&DistanceFormula::silentAt_m), 2, 1.0)), endLabel_(theme::caption({})),
      factor_(new NumberField("", rangeOf(&DistanceFormula::factor), 2, 0.1)), formulaText_(theme::caption({})),
      inner_(new NumberField(QStringLiteral("°"), rangeOf(&TwoAngles::inner_deg), 0, 5)),
      outer_(new NumberField(QStringLiteral("°"), rangeOf(&TwoAngles::outer_deg), 0, 5)),
      inside_(new NumberField("", rangeOf(LaneProperty::level), 1, 1)),
      behind_(new NumberField("", rangeOf(LaneProperty::level), 1, 1)), x_(new NumberField("m", laneInputs, 2, 0.1)),
      y_(new NumberField("dB", rangeOf(LaneProperty::level), 1, 0.5)), segment_(new QComboBox)
{
    shape_->setObjectName("falloffModel");
    shape_->setAccessibleName(tr("Shape of the lane"));
    shape_->setMinimumWidth(88);
    shape_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    shape_->setToolTip(
        tr("How it is drawn: by a formula (inverse like a small thing in the open, linear steadily to nothing, "
           "exponential faster and faster), by two angles, or as a curve of your own. What is not in use is kept"));
    reference_->setObjectName("reference");
    reference_->setToolTip(tr("Up to here it is heard at full level"));
    end_->setObjectName("silentAt");
    stays_->setObjectName("staysFrom");
    stays_->setToolTip(tr("From this distance on it gets no softer; 0: it goes on getting softer"));
    factor_->setObjectName("factor");
    factor_->setToolTip(tr("How steeply the level falls; 1 is the usual"));
    inner_->setObjectName("innerAngle");
    inner_->setToolTip(tr("The full angle round the front within which it is as it is"));
    outer_->setObjectName("outerAngle");
    outer_->setToolTip(tr("Outside this full angle it is as behind"));
    inside_->setObjectName("insideValue");
    behind_->setObjectName("behindValue");
    x_->setObjectName("pointX");
    y_->setObjectName("pointY");
    segment_->setObjectName("pointSegment");
    segment_->addItems({tr("straight"), tr("smooth"), tr("slow start"), tr("slow end"), tr("hold")});
    for (QComboBox* box : {shape_, segment_}) {
        box->setStyleSheet("QComboBox { padding: 3px 0px 3px 5px; }");
    }
    segment_->setAccessibleName(tr("Shape to the next point"));
    segment_->setToolTip(tr("How the curve goes from this point to the next"));

    pages_->addWidget(formulaPage());
    pages_->addWidget(anglesPage());
    pages_->addWidget(curvePage());
    QGridLayout* box = fieldGrid(this);
    box->addWidget(theme::caption(tr("Shape"), shape_), 0, 0);
    box->addWidget(shape_, 1, 0);
    box->addWidget(pages_, 0, 1, 2, 1);
    auto* stays = new QHBoxLayout;
    stays->setSpacing(6);
    stays->addWidget(stays_, 2);
    stays->addWidget(formulaText_, 3);
    stays_->setMinimumWidth(72);
    box->addWidget(staysLabel_, 2, 0);
    box->addLayout(stays, 2, 1);
    box->setColumnStretch(0, 2);
    box->setColumnStretch(1, 5);

    connect(shape_, &QComboBox::activated, this, &LaneFields::chooseShape);
    connect(segment_, &QComboBox::activated, this, [this](int index) {
        Lane lane = lane_;
        lane.curve[static_cast<std::size_t>(point_)].segment = static_cast<Segment>(index);
        emit laneEdited(lane, tr("%1 after point %2").arg(segment_->itemText(index)).arg(point_ + 1), {});
    });
}

QWidget* LaneFields::formulaPage()
{
    auto* page = new QWidget;
    QGridLayout* grid = fieldGrid(page);
    grid->addWidget(theme::caption(tr("Full up to"), reference_), 0, 0);
    grid->addWidget(endLabel_, 0, 1);
    grid->addWidget(theme::caption(tr("Factor"), factor_), 0, 2);
    grid->addWidget(reference_, 1, 0);
    grid->addWidget(end_, 1, 1);
    grid->addWidget(factor_, 1, 2);
    connect(reference_, &NumberField::valueEdited, this, [this](double value) {
        editFormula(tr("full up to %1").arg(theme::metres(value)), "reference field",
                    [&](DistanceFormula& f) { f.reference_m = value; });
    });
    connect(end_, &NumberField::valueEdited, this, [this](double value) {
        editFormula(tr("silent at %1").arg(theme::metres(value)), "silent field",
                    [&](DistanceFormula& f) { f = withSilentAt(f, value); });
    });
    connect(factor_, &NumberField::valueEdited, this, [this](double value) {
        editFormula(tr("factor to %1").arg(value), "factor field", [&](DistanceFormula& f) { f.factor = value; });
    });
    connect(stays_, &NumberField::valueEdited, this, [this](double value) {
        editFormula(tr("stays as it is from %1").arg(theme::metres(value)), "stays field",
                    [&](DistanceFormula& f) { f.staysFrom_m = value; });
    });
    for (NumberField* field : {reference_, end_, factor_, stays_}) {
        connect(field, &NumberField::editingFinished, this, &LaneFields::gestureEnded);
    }
    return page;
}

QWidget* LaneFields::anglesPage()
{
    auto* page = new QWidget;
    QGridLayout* grid = fieldGrid(page);
    int column = 0;
    const auto add = [&](const QString& name, NumberField* field, double TwoAngles::*member) {
        field->setMinimumWidth(48);
        grid->addWidget(theme::caption(name, field), 0, column);
        grid->addWidget(field, 1, column++);
        connect(field, &NumberField::valueEdited, this, [this, name, member](double value) {
            Lane lane = lane_;
            lane.angles.*member = value;
            emit laneEdited(lane, tr("%1 to %2").arg(name.toLower()).arg(value), name);
        });
        connect(field, &NumberField::editingFinished, this, &LaneFields::gestureEnded);
    };
    add(tr("Inner"), inner_, &TwoAngles::inner_deg);
    add(tr("Outer"), outer_, &TwoAngles::outer_deg);
    add(tr("Ahead"), inside_, &TwoAngles::inside);
    add(tr("Behind"), behind_, &TwoAngles::behind);
    return page;
}

QWidget* LaneFields::curvePage()
{
    auto* page = new QWidget;
    QGridLayout* grid = fieldGrid(page);
    grid->addWidget(theme::caption(tr("Point at"), x_), 0, 0);
    grid->addWidget(theme::caption(tr("Value"), y_), 0, 1);
    grid->addWidget(theme::caption(tr("To the next")), 0, 2);
    grid->addWidget(x_, 1, 0);
    grid->addWidget(y_, 1, 1);
    grid->addWidget(segment_, 1, 2);
    // Cut-offs are the longest numbers.
    segment_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    grid->setColumnStretch(0, 12);
    grid->setColumnStretch(1, 13);
    grid->setColumnStretch(2, 14);
    const auto edit = [this] {
        const auto at = static_cast<std::size_t>(point_);
        Lane moved = lane_;
        const double y = lane_.property == LaneProperty::placement ? y_->value() / 100.0 : y_->value();
        moved = withHandleAt(std::move(moved), at, x_->value(), lane_.curve[at].y);
        moved.curve[at].y = y;
        emit laneEdited(moved, handleText(moved, at), "point fields");
    };
    for (NumberField* field : {x_, y_}) {
        connect(field, &NumberField::valueEdited, this, edit);
        connect(field, &NumberField::editingFinished, this, &LaneFields::gestureEnded);
    }
    return page;
}

void LaneFields::editFormula(const QString& what, const QString& gesture, const std::function<void(DistanceFormula&)>& change)
{
    Lane lane = lane_;
    change(lane.formula);
    emit laneEdited(lane, what, gesture);
}

void LaneFields::chooseShape(int index)
{
    Lane lane = lane_;
    const int chosen = shape_->itemData(index).toInt();
    if (chosen >= 100) {
        const double silent = silentOrFaint_m(lane);
        lane.shape = LaneShape::formula;
        lane.formula.model = static_cast<DistanceModel>(chosen - 100);
        if (lane.formula.model == DistanceModel::linear && std::isfinite(silent)) {
            lane.formula.maximum_m = silent; // it is to end where it ended before
        }
    } else {
        lane.shape = static_cast<LaneShape>(chosen);
        if (lane.shape == LaneShape::curve && lane.curve.empty()) {
            lane.curve = curveOf(lane_);
        }
        if (lane.shape == LaneShape::twoAngles && lane.angles == TwoAngles{}) {
            lane.angles = usualAngles(lane.property);
        }
    }
    emit laneEdited(lane, tr("shape to %1").arg(shape_->itemText(index)), {});
}

void LaneFields::showLane(const Lane& lane, int point)
{
    lane_ = lane;
    point_ = std::min(point, static_cast<int>(lane.curve.size()) - 1);
    const QSignalBlocker quiet(shape_);
    shape_->clear();
    if (lane.property == LaneProperty::level && lane.over == LaneInput::distance) {
        shape_->addItem(tr("inverse"), 100);
        shape_->addItem(tr("linear"), 101);
        shape_->addItem(tr("exponential"), 102);
    }
    if (lane.over == LaneInput::offFront || lane.over == LaneInput::gaze) {
        shape_->addItem(tr("angles"), static_cast<int>(LaneShape::twoAngles));
    }
    shape_->addItem(tr("curve"), static_cast<int>(LaneShape::curve));
    shape_->setCurrentIndex(shape_->findData(lane.shape == LaneShape::formula ? 100 + static_cast<int>(lane.formula.model)
                                                                              : static_cast<int>(lane.shape)));
    pages_->setCurrentIndex(static_cast<int>(lane.shape));

    reference_->present(lane.formula.reference_m);
    const bool maximum = endsAtMaximum(lane.formula);
    endLabel_->setText(maximum ? tr("Maximum") : tr("Silent at"));
    end_->setAccessibleName(endLabel_->text());
    end_->setToolTip(maximum ? tr("The linear model is silent from here on")
                             : tr("Silent from here on, fading over the last fifth; 0: no end"));
    end_->present(maximum ? lane.formula.maximum_m : lane.formula.silentAt_m);
    factor_->present(lane.formula.factor);
    stays_->present(lane.formula.staysFrom_m);
    for (QWidget* widget : std::initializer_list<QWidget*>{stays_, staysLabel_}) {
        widget->setVisible(lane.shape == LaneShape::formula && lane.formula.model != DistanceModel::linear);
    }
    formulaText_->setVisible(lane.shape == LaneShape::formula);
    formulaText_->setText(formulaOf(lane.formula.model));
    formulaText_->setToolTip(tr("The gain at a distance d; ref is up to where it is heard in full"));
    inner_->present(lane.angles.inner_deg);
    outer_->present(lane.angles.outer_deg);
    const QString unit = lanes::propertyUnit(lane.property);
    const bool percent = lane.property == LaneProperty::placement;
    y_->setUnit(percent ? "%" : unit);
    const Range values = rangeOf(lane.property);
    for (NumberField* field : {inside_, behind_, y_}) {
        const double scale = percent && field == y_ ? 100.0 : 1.0;
        field->setRange(scale * values.least, scale * values.most);
        field->setDecimals(lane.property == LaneProperty::nearness || lane.property == LaneProperty::interval ? 2
                           : lanes::isLogarithmic(lane.property) || percent                                   ? 0
                                                                                                              : 1);
    }
    inside_->present(lane.angles.inside);
    behind_->present(lane.angles.behind);
    inside_->setToolTip(tr("Within the inner angle, %1").arg(unit));
    behind_->setToolTip(tr("Outside the outer angle, %1").arg(unit));
    x_->setUnit(lanes::inputUnit(lane.over));
    const bool any = lane.shape == LaneShape::curve && point_ >= 0;
    for (QWidget* widget : std::initializer_list<QWidget*>{x_, y_, segment_}) {
        widget->setEnabled(any);
    }
    if (any) {
        const CurvePoint& chosen = lane.curve[static_cast<std::size_t>(point_)];
        x_->present(chosen.x);
        y_->present(percent ? 100.0 * chosen.y : chosen.y);
        const QSignalBlocker quietSegment(segment_);
        segment_->setCurrentIndex(static_cast<int>(chosen.segment));
        segment_->setEnabled(static_cast<std::size_t>(point_) + 1 < lane.curve.size());
    }
}

} // namespace stone
