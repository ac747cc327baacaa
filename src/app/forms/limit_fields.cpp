// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/forms/limit_fields.h"

#include "app/theme/labels.h"
#include "project/range.h"

#include <QGridLayout>
#include <QSignalBlocker>

#include <cmath>

namespace stone
{

QString givesWayText(GivesWay rule)
{
    switch (rule) {
    case GivesWay::quietest: return QObject::tr("the quietest");
    case GivesWay::oldest: return QObject::tr("the oldest");
    case GivesWay::farthest: return QObject::tr("the farthest");
    case GivesWay::newest: return QObject::tr("the new one");
    }
    return {};
}

LimitFields::LimitFields(Of of, const QString& name, QWidget* parent)
    : QWidget(parent), of_(of), atOnce_(new NumberField({}, rangeOf(&Limit::atOnce), 0, 1)), givesWay_(new QComboBox),
      each_(new QCheckBox(tr("each emitter for itself"))), holdOff_(new NumberField("s", rangeOf(&Limit::holdOff_s), 2, 0.05))
{
    atOnce_->setObjectName(name + "AtOnce");
    atOnce_->setToolTip(of == Of::level ? tr("How many copies may be mixed at once in a level")
                                        : tr("Most copies that are heard together; 0: no limit"));
    if (of == Of::level) {
        atOnce_->setRange(1, rangeOf(&Limit::atOnce).most);
    }
    givesWay_->setObjectName(name + "GivesWay");
    givesWay_->setToolTip(
        tr("Of those of the lowest priority. One-shots are then gone; what goes on without an end comes back"));
    for (const GivesWay rule : {GivesWay::quietest, GivesWay::oldest, GivesWay::farthest, GivesWay::newest}) {
        givesWay_->addItem(givesWayText(rule));
    }
    givesWay_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    each_->setObjectName(name + "EachEmitter");
    each_->setToolTip(tr("Counts the copies of each emitter by themselves; otherwise all that play the sound"));
    holdOff_->setObjectName(name + "HoldOff");
    holdOff_->setToolTip(tr("Shortest time between two one-shots that are heard, over all emitters; what comes sooner is not"));
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->addWidget(theme::caption(of == Of::level ? tr("Voices") : tr("At once"), atOnce_), 0, 0);
    grid->addWidget(theme::caption(tr("Gives way"), givesWay_), 0, 1);
    grid->addWidget(theme::caption(tr("Hold-off"), holdOff_), 0, 2);
    grid->addWidget(atOnce_, 1, 0);
    grid->addWidget(givesWay_, 1, 1);
    grid->addWidget(holdOff_, 1, 2);
    // Words need more room than numbers.
    grid->setColumnStretch(0, 2);
    grid->setColumnStretch(1, 3);
    grid->setColumnStretch(2, 2);
    each_->setVisible(of != Of::level);
    if (of != Of::level) {
        grid->addWidget(each_, 2, 0, 1, 3);
    }
    connect(atOnce_, &NumberField::valueEdited, this, [this](double value) {
        const int wanted = static_cast<int>(std::lround(value));
        emit edited(wanted == 0 ? tr("no limit") : tr("%1 at once").arg(wanted), atOnce_->objectName(),
                    [wanted](Limit& l) { l.atOnce = wanted; });
    });
    connect(givesWay_, &QComboBox::activated, this, [this](int index) {
        emit edited(tr("%1 gives way").arg(givesWay_->itemText(index)), {},
                    [index](Limit& l) { l.givesWay = static_cast<GivesWay>(index); });
    });
    connect(each_, &QCheckBox::clicked, this, [this](bool on) {
        emit edited(on ? tr("counts each emitter for itself") : tr("counts all emitters together"), {},
                    [on](Limit& l) { l.eachEmitter = on; });
    });
    connect(holdOff_, &NumberField::valueEdited, this, [this](double value) {
        emit edited(tr("hold-off %1 s").arg(value), holdOff_->objectName(), [value](Limit& l) { l.holdOff_s = value; });
    });
    for (NumberField* field : {atOnce_, holdOff_}) {
        connect(field, &NumberField::editingFinished, this, &LimitFields::gestureEnded);
    }
}

void LimitFields::present(const Limit& limit)
{
    atOnce_->present(limit.atOnce);
    holdOff_->present(limit.holdOff_s);
    each_->setChecked(limit.eachEmitter);
    const QSignalBlocker quiet(givesWay_);
    givesWay_->setCurrentIndex(static_cast<int>(limit.givesWay));
    // Without a number there is nobody to give way.
    givesWay_->setEnabled(limit.atOnce > 0 || of_ == Of::level);
}

} // namespace stone
