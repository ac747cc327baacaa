// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/forms/emitter_form.h"

#include "app/forms/names_of.h"
namespace stone
{

EmitterForm::EmitterForm(Session& session, Playback& playback, QWidget* parent)
    : ThingForm(session, parent), playback_(playback), box_(new QVBoxLayout(this))
{
    box_->setContentsMargins(0, 4, 0, 0);
    box_->setSpacing(4);
    box_->setAlignment(Qt::AlignTop);
}

void EmitterForm::edit(const QString& what, const QString& gesture, const std::function<void(Emitter&)>& change)
{
    if (const Emitter* emitter = session_.subject()) {
        session_.editSelected(tr("%1: %2").arg(QString::fromStdString(emitter->name), what), gesture, change);
    }
}

ShapeFields* EmitterForm::shape(const QString& prefix, std::function<Shape&(Emitter&)> member)
{
    auto* fields = new ShapeFields(prefix);
    shows_.push_back([this, fields, member](const Emitter& shown) {
        Emitter copy = shown;
        fields->present(member(copy), session_.solidNodes());
    });
    connect(fields, &ShapeFields::edited, this,
            [this, member](const Shape& shape, const QString& what, const QString& gesture) {
                edit(tr("shape %1").arg(what), gesture, [&](Emitter& e) { member(e) = shape; });
            });
    connect(fields, &ShapeFields::gestureEnded, this, [this] { session_.endGesture(); });
    connect(fields, &ShapeFields::fitWanted, this, &Page::fitWanted);
    return fields;
}

QComboBox* EmitterForm::sound(const char* name, const QString& label, const QString& none,
                              std::function<std::string&(Emitter&)> member)
{
    return reference(
        name, label, none, [this] { return namesOf(session_.project().sounds); }, std::move(member));
}

QComboBox* EmitterForm::zone(const char* name, const QString& none)
{
    auto* box = reference(
        name, tr("Zone"), none, [this] { return namesOf(session_.level().zones); },
        [](Emitter& e) -> std::string& { return e.zone.text; });
    return box;
}

QComboBox* EmitterForm::startingPoints(const char* name, const std::vector<std::pair<QString, QString>>& points,
                                       std::function<void(Emitter&, std::size_t)> take)
{
    auto* box = new QComboBox;
    box->setObjectName(name);
    box->setAccessibleName(tr("Starting points"));
    box->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    box->addItem(tr("Begin with a starting point\u2026"));
    for (const auto& [called, words] : points) {
        box->addItem(called);
        box->setItemData(box->count() - 1, words, Qt::ToolTipRole);
    }
    connect(box, &QComboBox::activated, this, [this, box, take](int index) {
        if (index > 0) {
            const QString called = box->itemText(index);
            box->setCurrentIndex(0);
            edit(tr("begins as \u201c%1\u201d").arg(called), {},
                 [&](Emitter& e) { take(e, static_cast<std::size_t>(index - 1)); });
        }
    });
    return box;
}

void EmitterForm::row(std::initializer_list<QWidget*> cells)
{
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    for (QWidget* cell : cells) {
        line->addWidget(cell, 1, Qt::AlignBottom);
    }
    box_->addLayout(line);
}

QWidget* EmitterForm::stacked(std::initializer_list<QWidget*> cells)
{
    auto* pile = new QWidget;
    auto* box = new QVBoxLayout(pile);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(2);
    for (QWidget* cell : cells) {
        box->addWidget(cell);
    }
    return pile;
}

void EmitterForm::head(const QString& text)
{
    auto* label = new QLabel(text);
    label->setFont(theme::text(8.5, QFont::Bold));
    label->setContentsMargins(0, 6, 0, 0);
    box_->addWidget(label);
}

} // namespace stone
