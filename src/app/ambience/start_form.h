// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/emitter_form.h"

namespace stone
{

/// When an emitter starts and stops, and what it rides on.
class StartForm : public EmitterForm
{
    Q_OBJECT

public:
    StartForm(Session& session, Playback& playback);
    void refresh() override;

private:
    /// A list of triggers that can be added to and taken from.
    struct Triggers {
        std::vector<Trigger> Starting::*member;
        QWidget* list = nullptr;
        std::vector<Trigger> shown;
        bool built = false;
    };

    void addTriggers(const QString& title, const QString& none, std::vector<Trigger> Starting::*member, const char* name);
    void rebuild(Triggers& triggers);
    void build(const Triggers& triggers);
    void rebuildConditions();
    void buildConditions();
    QString whatOf(const Trigger& trigger) const;

    std::vector<Triggers> triggers_;
    QWidget* conditions_;
    std::vector<Condition> shownConditions_;
    bool builtConditions_ = false;
};

} // namespace stone
