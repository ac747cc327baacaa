#include "app/widgets/number_field.h"

#include "app/theme/theme.h"

#include <QHelpEvent>
#include <QLocale>
#include <QSignalBlocker>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace stone
{

NumberField::NumberField(const QString& unit, double least, double most, int decimals, double step, QWidget* parent)
    : QDoubleSpinBox(parent)
{
    setLocale(QLocale::c());
    setDecimals(decimals);
    setRange(least, most);
    setSingleStep(step);
    setSuffix(unit.isEmpty() ? QString() : ' ' + unit);
    setKeyboardTracking(false);
    setFont(theme::number(8.5));
    setAlignment(Qt::AlignRight);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumWidth(58);
    setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(this, &QDoubleSpinBox::valueChanged, this, &NumberField::valueEdited);
}

void NumberField::setUnit(const QString& unit)
{
    const QString wanted = unit.isEmpty() ? QString() : ' ' + unit;
    if (suffix() != wanted) {
        const QSignalBlocker quiet(this);
        setSuffix(wanted);
    }
}

void NumberField::setDecimals(int decimals)
{
    const QSignalBlocker quiet(this);
    QDoubleSpinBox::setDecimals(decimals);
}

void NumberField::setRange(double least, double most)
{
    const QSignalBlocker quiet(this);
    // The ends as they are shown lie within what is allowed: rounded, 0.01 would be 0.0 with one decimal.
    const double places = std::pow(10.0, decimals());
    const auto rounding = [](double product) { return 1e-9 * std::max(1.0, std::abs(product)); };
    QDoubleSpinBox::setRange(std::ceil(least * places - rounding(least * places)) / places,
                             std::floor(most * places + rounding(most * places)) / places);
}

void NumberField::setUnits(double metresPerUnit)
{
    metresPerUnit_ = metresPerUnit;
}

void NumberField::present(double value)
{
    if (hasFocus() && QDoubleSpinBox::text() != textFromValue(this->value()) + suffix()) {
        return; // somebody is typing
    }
    const QSignalBlocker quiet(this);
    setValue(value);
}

QString NumberField::textFromValue(double value) const
{
    return theme::signedNumber(value, decimals());
}

double NumberField::valueFromText(const QString& text) const
{
    QString plain = text;
    plain.replace(QChar(0x2212), '-').replace(',', '.');
    if (plain.endsWith(suffix())) {
        plain.chop(suffix().size());
    }
    plain = plain.trimmed();
    if (plain.endsWith('u')) {
        plain.chop(1);
        return plain.trimmed().toDouble() * metresPerUnit_;
    }
    return plain.toDouble();
}

QValidator::State NumberField::validate(QString& text, int& position) const
{
    QString plain = text;
    plain.replace(QChar(0x2212), '-').replace(',', '.');
    if (metresPerUnit_ != 1.0 && plain.trimmed().endsWith('u')) {
        return QValidator::Acceptable;
    }
    return QDoubleSpinBox::validate(plain, position);
}

bool NumberField::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip && metresPerUnit_ != 1.0) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QToolTip::showText(help->globalPos(),
                           tr("%1\n%2 units of the level; type \"12 u\" to give units")
                               .arg(toolTip())
                               .arg(value() / metresPerUnit_, 0, 'f', 2),
                           this);
        return true;
    }
    return QDoubleSpinBox::event(event);
}

void NumberField::wheelEvent(QWheelEvent* event)
{
    // Scrolling past a field must not change it.
    if (hasFocus()) {
        QDoubleSpinBox::wheelEvent(event);
    } else {
        event->ignore();
    }
}

} // namespace stone
