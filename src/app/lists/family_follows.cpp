// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/family_follows.h"

#include "app/theme/labels.h"
#include "app/widgets/typed_dialog.h"

#include <QDialogButtonBox>
#include <QHBoxLayout>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

namespace
{

/// Offers all of a list by name, with its id; keeps what is chosen where that is still there.
template <class List> void offer(QComboBox* chooser, const QString& none, const List& list, const std::string& chosen)
{
    const QSignalBlocker quiet(chooser);
    chooser->clear();
    if (!none.isEmpty()) {
        chooser->addItem(none, QString());
    }
    for (const auto& thing : list) {
        chooser->addItem(QString::fromStdString(thing->name), QString::fromStdString(thing->id.text));
    }
    chooser->setCurrentIndex(
        std::max(chooser->findData(QString::fromStdString(chosen)), list.empty() && none.isEmpty() ? -1 : 0));
}

} // namespace

FamilyFollows::FamilyFollows(Session& session, Playback& playback, FamilyId family, QWidget* parent)
    : QDialog(parent), session_(session), playback_(playback), id_(std::move(family)), value_(new QComboBox),
      lanes_(new LaneStack(LaneInput::gameValue,
                           {LaneProperty::level, LaneProperty::lowPass, LaneProperty::highPass, LaneProperty::nearness},
                           source())),
      falloff_(new QComboBox), whenValue_(new QComboBox), whenIs_(new QComboBox),
      whenNumber_(new NumberField({}, -1e9, 1e9, 2, 0.1))
{
    setObjectName("familyFollows");
    resize(420, 460);
    value_->setObjectName("followedValue");
    auto* top = new QHBoxLayout;
    top->addWidget(theme::caption(tr("They follow"), value_));
    top->addWidget(value_, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* box = new QVBoxLayout(this);
    box->addWidget(
        theme::explained(tr("Holds for all members of the family, those that join later too. Game values are made on the "
                            "pad (U). Nearness is a factor on distances: 0.5 is heard from twice as far.")));
    box->addLayout(top);
    box->addWidget(lanes_, 1);
    box->addWidget(makeOther());
    box->addWidget(buttons);
    enterEndsTyping(this);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(value_, &QComboBox::activated, this, &FamilyFollows::chooseValue);
    connect(&session_, &Session::documentChanged, this, &FamilyFollows::refresh);
    connect(&playback_, &Playback::ticked, lanes_, &LaneStack::refreshPlace);
    refresh();
    chooseValue();
}

/// Another falloff for all of them, and when.
QWidget* FamilyFollows::makeOther()
{
    falloff_->setObjectName("otherFalloff");
    whenValue_->setObjectName("otherWhenValue");
    whenValue_->setAccessibleName(tr("Game value"));
    whenIs_->setObjectName("otherWhenIs");
    whenIs_->setAccessibleName(tr("At least or at most"));
    whenIs_->addItems({tr("at least"), tr("at most")});
    whenNumber_->setObjectName("otherWhenNumber");
    whenNumber_->setAccessibleName(tr("Number"));
    auto* row = new QWidget;
    auto* first = new QHBoxLayout;
    first->addWidget(theme::caption(tr("Heard by the falloff"), falloff_));
    first->addWidget(falloff_, 1);
    auto* second = new QHBoxLayout;
    second->addWidget(theme::caption(tr("while")));
    second->addWidget(whenValue_, 1);
    second->addWidget(whenIs_);
    second->addWidget(whenNumber_);
    auto* box = new QVBoxLayout(row);
    box->setContentsMargins(0, 0, 0, 0);
    box->addLayout(first);
    box->addLayout(second);
    connect(falloff_, &QComboBox::activated, this, [this](int index) {
        session_.editFamily(id_, tr("another falloff: %1").arg(falloff_->itemText(index)), {}, [&](Family& f) {
            f.otherFalloff = {falloff_->itemData(index).toString().toStdString()};
            const auto& values = session_.project().gameValues;
            if (f.otherWhen.value.empty() && !values.empty()) {
                f.otherWhen.value = values[0]->id;
            }
        });
    });
    connect(whenValue_, &QComboBox::activated, this, [this](int index) {
        session_.editFamily(id_, tr("other falloff by %1").arg(whenValue_->itemText(index)), {},
                            [&](Family& f) { f.otherWhen.value = {whenValue_->itemData(index).toString().toStdString()}; });
    });
    connect(whenIs_, &QComboBox::activated, this, [this](int index) {
        session_.editFamily(id_, tr("other falloff %1").arg(whenIs_->itemText(index)), {},
                            [&](Family& f) { f.otherWhen.comparison = static_cast<Comparison>(index); });
    });
    connect(whenNumber_, &NumberField::valueEdited, this, [this](double number) {
        session_.editFamily(id_, tr("other falloff from %1").arg(number), "other falloff number",
                            [&](Family& f) { f.otherWhen.number = number; });
    });
    connect(whenNumber_, &NumberField::editingFinished, this, [this] { session_.endGesture(); });
    return row;
}

LaneStack::Source FamilyFollows::source()
{
    return {.lanes = [this] { return family() != nullptr ? family()->lanes : std::vector<Lane>{}; },
            .change =
                [this](std::vector<Lane> lanes, const QString& what, const QString& gesture) {
                    session_.editFamily(id_, what, gesture, [&](Family& f) { f.lanes = lanes; });
                },
            .endGesture = [this] { session_.endGesture(); },
            .place = [this]() -> std::optional<double> {
                return value().empty() ? std::nullopt
                                       : std::optional(playback_.hearing().world().valueAt(playback_.moment(), value()));
            },
            .ghost = [] { return std::vector<Lane>{}; },
            .preview = [](double) {},
            .endPreview = [] {}};
}

void FamilyFollows::chooseValue()
{
    const GameValue* followed = session_.project().gameValues.find(value());
    lanes_->setEnabled(followed != nullptr);
    if (followed != nullptr) {
        lanes_->setInput(LaneInput::gameValue, followed->id, {followed->least, followed->most});
    }
}

void FamilyFollows::refresh()
{
    const Family* shown = family();
    if (shown == nullptr) {
        close();
        return;
    }
    const Project& project = session_.project();
    setWindowTitle(tr("What the family %1 follows").arg(QString::fromStdString(shown->name)));
    offer(value_, {}, project.gameValues, value().text);
    value_->setPlaceholderText(tr("no game value yet"));
    offer(falloff_, tr("their own"), project.falloffs, shown->otherFalloff.text);
    offer(whenValue_, {}, project.gameValues, shown->otherWhen.value.text);
    whenIs_->setCurrentIndex(static_cast<int>(shown->otherWhen.comparison));
    whenNumber_->present(shown->otherWhen.number);
    for (QWidget* part : std::initializer_list<QWidget*>{whenValue_, whenIs_, whenNumber_}) {
        part->setEnabled(!shown->otherFalloff.empty());
    }
    lanes_->refresh();
}

} // namespace stone
