// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"
#include "app/session/playback.h"
#include "app/widgets/cell_table.h"

#include <QLabel>

namespace stone
{

class ProjectForm;

/// The page of the level that is shown: what lies on its sheet, where the character begins, its storeys and saved places, and
/// what the whole project has.
class LevelPage : public ThingForm<Level>
{
    Q_OBJECT

public:
    LevelPage(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;

protected:
    const Level* thing() const override { return &session_.level(); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Level&)>& change) override;

private:
    QWidget* makeSheet();
    QWidget* makeSide();
    QWidget* makeFacing();
    QWidget* makeCharacter();
    QWidget* makeStoreys();
    QWidget* makeEdges();
    QString edgeWords() const;
    QWidget* makePlaces();
    void findStoreysInLevel();
    void storeyTyped(int row, int column, const QString& text);
    void placeTyped(int row, int column, const QString& text);

    Playback& playback_;
    QLabel* facts_;
    QLabel* edges_;
    CellTable* storeys_;
    CellTable* places_;
    ProjectForm* project_;
};

} // namespace stone
