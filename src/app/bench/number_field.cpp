#include "app/bench/number_field.h"

#include "app/theme/theme.h"

#include <QLocale>
#include <QSignalBlocker>
#include <QWheelEvent>

namespace stone
{

NumberField::NumberField(const QString& unit, double least, double most, int decimals, double step, QWidget* parent)
    : QDoubleSpinBox(parent)
{
    setLocale(QLocale::c());
    setRange(least, most);
    setDecimals(decimals);
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
    return plain.trimmed().toDouble();
}

QValidator::State NumberField::validate(QString& text, int& position) const
{
    QString plain = text;
    plain.replace(QChar(0x2212), '-').replace(',', '.');
    return QDoubleSpinBox::validate(plain, position);
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
