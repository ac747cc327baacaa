// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/blind/blind_cover.h"
#include "app/blind/run_banner.h"
#include "app/eyes/eyes_view.h"
#include "app/plan/plan_view.h"
#include "app/section/section_view.h"
#include "app/strata/strata_panel.h"

#include <QSplitter>
#include <QStackedWidget>

namespace stone
{

/// The middle of the window: the Plan, the Section, the walk-through view, and what covers them on a blind walk.
class Sheets : public QStackedWidget
{
    Q_OBJECT

public:
    enum class Shown { plan, both, eyes };

    Sheets(Session& session, Playback& playback, QWidget* parent = nullptr);

    PlanView& plan() { return *plan_; }
    SectionView& section() { return *section_; }
    StrataPanel& strata() { return *strata_; }
    BlindWalk& blindWalk() { return blind_; }
    RunClock& runClock() { return run_; }
    Shown shown() const { return shown_; }
    /// The walk-through view beside the Plan or instead of it. False where there is no OpenGL: then the Plan stays.
    bool show(Shown what);
    /// The one in whose corner the Ear dial lies.
    QWidget* host();

signals:
    /// Another one is shown.
    void arranged();

private:
    Session& session_;
    Playback& playback_;
    BlindWalk blind_;
    RunClock run_;
    QSplitter* splitter_;
    PlanView* plan_;
    SectionView* section_;
    StrataPanel* strata_;
    EyesView* eyes_ = nullptr; ///< made when it is wanted
    BlindCover* cover_;
    RunBanner* banner_;
    Shown shown_ = Shown::plan;
};

} // namespace stone
