// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/shape_fields.h"
#include "app/forms/thing_form.h"
#include "app/session/playback.h"

#include <QGridLayout>
#include <QLabel>

namespace stone
{

/// The selected plant rule on the bench: what it copies, where, how many that makes, and what is to be otherwise of one of
/// them.
class PlantPage : public ThingForm<Plant>
{
    Q_OBJECT

public:
    PlantPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    bool isOfSelection() const override { return session_.selected<Plant>() != nullptr; }
    /// How many there are by now, and how the one in hand is heard.
    void follow() override;

protected:
    const Plant* thing() const override { return session_.selected<Plant>(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Plant&)>& change) override;

private:
    QWidget* whereFields();
    QWidget* standingFields();
    QWidget* conditionFields();
    QWidget* copyFields();
    void showFor(QWidget* widget, std::initializer_list<Plant::Where> wheres);

    /// What the rule has planted in the scene that is shown; null while it is not there yet.
    const PlantedRule* planted() const;
    /// Which of its copies is in hand.
    std::optional<std::size_t> copyInHand() const;
    void editCopy(const QString& what, const QString& gesture,
                  const std::function<Project(Project, const LevelId&, const PlantId&, const PlantSpot&)>& change);
    void letLoose(const std::vector<std::size_t>& copies);
    void showCopy();

    Playback& playback_;
    ShapeFields* shape_;
    QLabel* count_;
    QLabel* copyWords_;
    QWidget* copyBox_;
    QCheckBox* ownLevel_;
    NumberField* level_;
    QPushButton* putBack_;
    QPushButton* forget_;
    QPushButton* allLoose_;
};

} // namespace stone
