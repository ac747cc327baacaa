// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/widgets/number_field.h"
#include "geometry/shape.h"

#include <QCheckBox>
#include <QComboBox>
#include <QStackedWidget>

#include <functional>
#include <vector>

namespace stone
{

/// A shape in numbers: its kind and its measures. What is drawn point by point is drawn on the Plan and measured here.
class ShapeFields : public QWidget
{
    Q_OBJECT

public:
    explicit ShapeFields(const QString& namePrefix, QWidget* parent = nullptr);

    void present(const Shape& shape, const QStringList& nodes);

signals:
    /// `what` happened, for the history; `gesture` as Session::edit() has it.
    void edited(const Shape& shape, const QString& what, const QString& gesture);
    void gestureEnded();
    /// It is to be put round a part of the level, which is pointed at on the Plan.
    void fitWanted();

private:
    NumberField* number(const char* name, const QString& unit, double least, double most, const QString& help,
                        const std::function<double&(Shape&)>& member);
    QWidget* row(std::initializer_list<std::pair<QString, QWidget*>> cells);

    QString prefix_;
    Shape shape_;
    QStringList nodes_; ///< the level's parts
    QComboBox* kind_;
    QStackedWidget* measures_;
    QComboBox* node_;
    std::vector<std::pair<NumberField*, std::function<double&(Shape&)>>> numbers_;
    std::vector<int> kindOf_;                                                ///< shape of each number
    std::vector<std::pair<QCheckBox*, std::function<bool*(Shape&)>>> flags_; ///< each null for other kinds of shapes
};

/// A shape of another kind that fills about the same room.
Shape asKind(const Shape& shape, std::size_t kind);

} // namespace stone
