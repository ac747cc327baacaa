#pragma once

#include <QDoubleSpinBox>

namespace stone
{

/// A number with its unit that is typed, or stepped by the arrow keys and the wheel. Takes the true minus and the
/// hyphen. valueEdited() comes once typing is done (Enter or leaving the field) and at each step, never from setValue().
class NumberField : public QDoubleSpinBox
{
    Q_OBJECT

public:
    NumberField(const QString& unit, double least, double most, int decimals, double step, QWidget* parent = nullptr);

    /// Shows a value that comes from elsewhere.
    void present(double value);

    QString textFromValue(double value) const override;
    double valueFromText(const QString& text) const override;
    QValidator::State validate(QString& text, int& position) const override;

signals:
    void valueEdited(double value);

protected:
    void wheelEvent(QWheelEvent* event) override;
};

} // namespace stone
