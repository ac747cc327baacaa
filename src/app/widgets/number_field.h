// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/range.h"

#include <QDoubleSpinBox>

namespace stone
{

/// A number with its unit that is typed, or stepped by the arrow keys and the wheel. Takes the true minus and the
/// hyphen; lengths also in units of the level ("12 u"), levels also as factors ("x0.5"), and the tool tip says them so.
/// valueEdited() comes once typing is done (Enter or leaving the field) and at each step, never from setValue().
class NumberField : public QDoubleSpinBox
{
    Q_OBJECT

public:
    NumberField(const QString& unit, double least, double most, int decimals, double step, QWidget* parent = nullptr);
    /// Over a range of the document.
    NumberField(const QString& unit, Range range, int decimals, double step, QWidget* parent = nullptr)
        : NumberField(unit, range.least, range.most, decimals, step, parent)
    {
    }

    /// The unit behind the number.
    void setUnit(const QString& unit);
    /// How many metres one unit of the level that is shown is, for all fields of lengths.
    static void setLevelUnit(double metresPerUnit) { levelUnit_ = metresPerUnit; }

    /// Shows a value that comes from elsewhere.
    void present(double value);

    /// What a person did not do is not an edit, though it may round or bound the number that is shown.
    void setDecimals(int decimals);
    void setRange(double least, double most);

    QString textFromValue(double value) const override;
    double valueFromText(const QString& text) const override;
    QValidator::State validate(QString& text, int& position) const override;

signals:
    void valueEdited(double value);

protected:
    void wheelEvent(QWheelEvent* event) override;
    bool event(QEvent* event) override;

private:
    QString typed(const QString& text) const;
    bool isLength() const { return suffix() == QLatin1String(" m") && levelUnit_ != 1.0; }
    bool isLevel() const { return suffix() == QLatin1String(" dB"); }

    static inline double levelUnit_ = 1.0;
};

} // namespace stone
