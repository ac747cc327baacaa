// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/lists/row_list.h"
#include "app/session/session.h"
#include "engine/scene.h"

#include <QDialog>
#include <QDialogButtonBox>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// What was found in the project, the serious first: each with its reason, what to do, and a way there.
class FindingsDialog : public QDialog
{
    Q_OBJECT

public:
    /// `scene`: of the level as it is heard.
    FindingsDialog(Session& session, std::shared_ptr<const Scene> scene, QWidget* parent = nullptr);

    /// Looks for all missing sounds in a folder, on another thread, and takes in what it finds.
    void lookIn(const QString& folder);

signals:
    void emitterWanted(const EmitterId& id);
    void levelSettingsWanted();

private:
    void refresh();
    void showFinding();
    std::optional<Finding> current() const;
    void mend();
    void lookOverFloor();
    std::vector<Finding> all() const;
    /// The emitter to show for a finding: its own, or the first of the shown level that plays its sound. May be empty.
    EmitterId placeOf(const Finding& finding) const;

    Session& session_;
    std::shared_ptr<const Scene> scene_;
    RowList* list_;
    QLabel* text_;
    QPushButton* go_;
    QPushButton* mend_;
    QPushButton* lookFor_;
    QDialogButtonBox* buttons_;
    QLabel* outcome_; ///< of looking for what is missing
    std::vector<QPushButton*> remedies_;
    std::vector<Finding> overFloor_; ///< found by looking over the whole floor, until something is edited
};

} // namespace stone
