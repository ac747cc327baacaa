// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/forms/shape_fields.h"

#include "app/theme/labels.h"
#include "geometry/solid.h"

#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QPushButton>
#include <QSignalBlocker>
#include <QStandardItemModel>
#include <QVBoxLayout>

#include <algorithm>

namespace stone
{

namespace
{

constexpr int meshKind = 5; ///< its index among the kinds of shapes

template <class Kind> Kind& as(Shape& shape)
{
    return std::get<Kind>(shape);
}

} // namespace

Shape asKind(const Shape& shape, std::size_t kind)
{
    if (shape.index() == kind) {
        return shape;
    }
    const auto [low, high] = Solid(shape, {}).box();
    const Vec3 size = high - low;
    const Vec2 middle{(low.x + high.x) / 2.0, (low.y + high.y) / 2.0};
    const double height = std::max(size.z, 0.1);
    switch (kind) {
    case 0: return Box{{size.x, size.y, height}};
    case 1: return Ball{std::max({size.x, size.y, 0.2}) / 2.0};
    case 2: {
        const double radius = std::max(std::min(size.x, size.y) / 2.0, 0.1);
        const bool eastward = size.x > size.y;
        const double half = std::max(std::max(size.x, size.y) / 2.0 - radius, 0.0);
        const Vec3 along = eastward ? Vec3{half, 0, 0} : Vec3{0, half, 0};
        return Capsule{Vec3{middle.x, middle.y, low.z + radius} - along, Vec3{middle.x, middle.y, low.z + radius} + along,
                       radius};
    }
    case 3: {
        Prism prism{{}, height};
        const auto outlines = Solid(shape, {}).footprint();
        if (!outlines.empty() && outlines.front().size() >= 3 && outlines.front().size() <= 12) {
            prism.corners = outlines.front();
        } else {
            prism.corners = {{low.x, low.y}, {high.x, low.y}, {high.x, high.y}, {low.x, high.y}};
        }
        return prism;
    }
    case 4: {
        const Vec3 half = size.x > size.y ? Vec3{size.x / 2.0, 0, 0} : Vec3{0, size.y / 2.0, 0};
        const Vec3 centre{middle.x, middle.y, low.z};
        return Ribbon{{centre - half, centre + half}, std::max(std::min(size.x, size.y), 0.1), false};
    }
    default: return Hull{};
    }
}

ShapeFields::ShapeFields(const QString& namePrefix, QWidget* parent)
    : QWidget(parent), prefix_(namePrefix), kind_(new QComboBox), measures_(new QStackedWidget), node_(new QComboBox)
{
    kind_->setObjectName(prefix_ + "Shape");
    kind_->setAccessibleName(tr("Shape"));
    kind_->addItems({tr("Box"), tr("Sphere"), tr("Capsule"), tr("Polygon"), tr("Line"), tr("Mesh of the level")});
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(3);
    auto* fit = new QPushButton(tr("Fit to a part…"));
    fit->setObjectName(prefix_ + "Fit");
    fit->setToolTip(tr("Puts this kind of shape round a part of the level that you click on the Plan"));
    connect(fit, &QPushButton::clicked, this, &ShapeFields::fitWanted);
    auto* top = new QHBoxLayout;
    top->setSpacing(6);
    top->addWidget(kind_, 1);
    top->addWidget(fit);
    box->addLayout(top);
    measures_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
    box->addWidget(measures_);
    connect(kind_, &QComboBox::activated, this, [this](int index) {
        const Shape next = index == meshKind ? Shape(Hull{nodes_.value(0).toStdString(), {}, {}})
                                             : asKind(shape_, static_cast<std::size_t>(index));
        emit edited(next, kind_->itemText(index).toLower(), {});
    });

    measures_->addWidget(row(
        {{tr("Width"), number("Width", "m", 0, 1e5, tr("Aside"), [](Shape& s) -> double& { return as<Box>(s).size_m.x; })},
         {tr("Length"), number("Length", "m", 0, 1e5, tr("Ahead"), [](Shape& s) -> double& { return as<Box>(s).size_m.y; })},
         {tr("Height"),
          number("Height", "m", 0, 1e5, tr("Up from its place"), [](Shape& s) -> double& { return as<Box>(s).size_m.z; })}}));
    measures_->addWidget(
        row({{tr("Radius"), number("Radius", "m", 0, 1e5, {}, [](Shape& s) -> double& { return as<Ball>(s).radius_m; })}}));
    measures_->addWidget(row(
        {{tr("Radius"), number("CapsuleRadius", "m", 0, 1e5, {}, [](Shape& s) -> double& { return as<Capsule>(s).radius_m; })},
         {tr("From height"),
          number("CapsuleFrom", "m", -1e4, 1e4, {}, [](Shape& s) -> double& { return as<Capsule>(s).from.z; })},
         {tr("To height"), number("CapsuleTo", "m", -1e4, 1e4, {}, [](Shape& s) -> double& { return as<Capsule>(s).to.z; })}}));
    const auto flag = [this](const char* name, const QString& text, const QString& help, const QString& off,
                             const std::function<bool*(Shape&)>& member) {
        auto* field = new QCheckBox(text);
        field->setObjectName(prefix_ + name);
        field->setToolTip(help);
        connect(field, &QCheckBox::clicked, this, [this, text, off, member](bool on) {
            Shape next = shape_;
            if (bool* held = member(next)) {
                *held = on;
                emit edited(next, on ? text : off, {});
            }
        });
        flags_.emplace_back(field, member);
        return field;
    };
    auto* standing = flag(
        "Standing", tr("stands on its edge"),
        tr("Its outline is aside and up, as it is drawn in a level that is seen from the side; its height is how deep it is"),
        tr("lies"), [](Shape& s) {
            auto* prism = std::get_if<Prism>(&s);
            return prism != nullptr ? &prism->standing : nullptr;
        });
    measures_->addWidget(row({{tr("Height"), number("PrismHeight", "m", 0, 1e5, tr("Up from its place, or how deep it is"),
                                                    [](Shape& s) -> double& { return as<Prism>(s).height_m; })},
                              {QString(), standing}}));
    auto* closed = flag("Closed", tr("closed"), tr("The last point joins the first"), tr("open"), [](Shape& s) {
        auto* ribbon = std::get_if<Ribbon>(&s);
        return ribbon != nullptr ? &ribbon->closed : nullptr;
    });
    measures_->addWidget(
        row({{tr("Width"), number("LineWidth", "m", 0, 1e5, {}, [](Shape& s) -> double& { return as<Ribbon>(s).width_m; })},
             {QString(), closed}}));
    node_->setObjectName(prefix_ + "Node");
    node_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    connect(node_, &QComboBox::activated, this, [this](int index) {
        emit edited(Hull{node_->itemText(index).toStdString(), {}, {}}, node_->itemText(index), {});
    });
    measures_->addWidget(row({{tr("Part of the level"), node_}}));
}

NumberField* ShapeFields::number(const char* name, const QString& unit, double least, double most, const QString& help,
                                 const std::function<double&(Shape&)>& member)
{
    auto* field = new NumberField(unit, least, most, 2, 0.5);
    field->setObjectName(prefix_ + name);
    field->setToolTip(help);
    const auto kind = static_cast<std::size_t>(measures_->count());
    connect(field, &NumberField::valueEdited, this, [this, field, member, kind](double value) {
        Shape next = shape_;
        if (next.index() == kind) {
            member(next) = value;
            emit edited(next, field->accessibleName().toLower() + ' ' + field->text(), field->objectName());
        }
    });
    connect(field, &NumberField::editingFinished, this, &ShapeFields::gestureEnded);
    numbers_.emplace_back(field, member);
    kindOf_.push_back(static_cast<int>(kind));
    return field;
}

QWidget* ShapeFields::row(std::initializer_list<std::pair<QString, QWidget*>> cells)
{
    auto* widget = new QWidget;
    auto* grid = new QGridLayout(widget);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(6);
    grid->setVerticalSpacing(1);
    grid->setAlignment(Qt::AlignTop);
    int column = 0;
    for (const auto& [label, field] : cells) {
        grid->addWidget(theme::caption(label), 0, column);
        grid->addWidget(field, 1, column);
        grid->setColumnStretch(column++, 1);
        if (!label.isEmpty()) {
            field->setAccessibleName(label);
        }
    }
    return widget;
}

void ShapeFields::present(const Shape& shape, const QStringList& nodes)
{
    shape_ = shape;
    nodes_ = nodes;
    const QSignalBlocker quiet(kind_);
    // A mesh is a part of the level: without parts there is none to choose.
    auto* kinds = qobject_cast<QStandardItemModel*>(kind_->model());
    kinds->item(meshKind)->setEnabled(!nodes.isEmpty());
    kinds->item(meshKind)->setToolTip(nodes.isEmpty() ? tr("The level has no parts with names") : QString());
    kind_->setCurrentIndex(static_cast<int>(shape.index()));
    measures_->setCurrentIndex(static_cast<int>(shape.index()));
    for (std::size_t i = 0; i < numbers_.size(); ++i) {
        if (kindOf_[i] == static_cast<int>(shape.index())) {
            numbers_[i].first->present(numbers_[i].second(shape_));
        }
    }
    for (const auto& [field, member] : flags_) {
        const bool* held = member(shape_);
        field->setChecked(held != nullptr && *held);
    }
    if (const auto* hull = std::get_if<Hull>(&shape)) {
        const QSignalBlocker still(node_);
        node_->clear();
        node_->addItems(nodes);
        node_->setCurrentText(QString::fromStdString(hull->node));
    }
}

} // namespace stone
