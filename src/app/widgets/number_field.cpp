// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/widgets/number_field.h"

#include "app/theme/theme.h"

#include <QHelpEvent>
#include <QLocale>
#include <QSignalBlocker>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>
#include <optional>

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

void NumberField::present(double value)
{
    if (hasFocus() && QDoubleSpinBox::text() != textFromValue(this->value()) + suffix()) {
        return; // somebody is typing
    }
    const QSignalBlocker quiet(this);
    setValue(value);
}

namespace
{

/// What is typed as a factor, "x0.5" or "0.5x"; nothing when it is none.
std::optional<double> factorIn(const QString& typed)
{
    QString plain = typed.trimmed().toLower();
    plain.replace(QChar(0x00d7), 'x').replace(',', '.');
    const bool is = plain.startsWith('x') || plain.endsWith('x');
    bool good = false;
    const double factor = plain.remove('x').trimmed().toDouble(&good);
    return is && good && factor >= 0.0 ? std::optional(factor) : std::nullopt;
}

} // namespace

QString NumberField::textFromValue(double value) const
{
    return theme::signedNumber(value, decimals());
}

/// Without the unit, which stays behind the number while it is typed.
QString NumberField::typed(const QString& text) const
{
    QString plain = text;
    plain.replace(QChar(0x2212), '-').replace(',', '.');
    if (!suffix().isEmpty() && plain.endsWith(suffix())) {
        plain.chop(suffix().size());
    }
    return plain.trimmed();
}

double NumberField::valueFromText(const QString& text) const
{
    QString plain = typed(text);
    if (plain.endsWith('u')) {
        plain.chop(1);
        return plain.trimmed().toDouble() * levelUnit_;
    }
    if (const auto factor = isLevel() ? factorIn(plain) : std::nullopt) {
        return *factor > 0.0 ? 20.0 * std::log10(*factor) : minimum();
    }
    return plain.toDouble();
}

QValidator::State NumberField::validate(QString& text, int& position) const
{
    const QString plain = typed(text);
    if (isLength() && plain.endsWith('u')) {
        return QValidator::Acceptable;
    }
    // "x" alone is the beginning of a factor.
    if (isLevel() && (plain.contains('x', Qt::CaseInsensitive) || plain.contains(QChar(0x00d7)))) {
        return factorIn(plain) ? QValidator::Acceptable : QValidator::Intermediate;
    }
    QString whole = text;
    whole.replace(QChar(0x2212), '-').replace(',', '.');
    return QDoubleSpinBox::validate(whole, position);
}

bool NumberField::event(QEvent* event)
{
    if (event->type() == QEvent::ToolTip && (isLength() || isLevel())) {
        const QString also =
            isLength() ? tr("%1 units of the level; type \"12 u\" to give units").arg(value() / levelUnit_, 0, 'f', 2)
                       : tr("times %1; type \"x0.5\" to give a factor").arg(std::pow(10.0, value() / 20.0), 0, 'g', 3);
        const QString help = toolTip().isEmpty() ? also : toolTip() + '\n' + also;
        QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), help, this);
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
