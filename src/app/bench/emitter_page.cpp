// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/emitter_page.h"

#include "app/ambience/kind_forms.h"
#include "app/ambience/pulse_form.h"
#include "app/ambience/roamer_form.h"
#include "app/ambience/sprinkle_form.h"
#include "app/ambience/start_form.h"
#include "app/bench/emitter_head.h"
#include "app/bench/facing_editor.h"
#include "app/bench/falloff_editor.h"
#include "app/bench/placement_editor.h"
#include "app/theme/labels.h"

#include <QSignalBlocker>
#include <QVBoxLayout>

namespace stone
{

EmitterPage::EmitterPage(Session& session, Playback& playback, QWidget* parent)
    : Page(parent), session_(session), playback_(playback), head_(new EmitterHead(session, playback)), tabs_(new QTabBar),
      about_(theme::caption({})), parts_(new QStackedWidget), falloff_(new FalloffEditor(session, playback)),
      facing_(new FacingEditor(session, playback)), placement_(new PlacementEditor(session, playback)),
      area_(new AreaForm(session, playback)), bed_(new BedForm(session, playback)),
      sprinkle_(new SprinkleForm(session, playback)), roamer_(new RoamerForm(session, playback)),
      steps_(new StepsForm(session, playback)), pulse_(new PulseForm(session, playback)),
      starting_(new StartForm(session, playback))
{
    falloff_->setObjectName("falloffEditor");
    facing_->setObjectName("facingEditor");
    placement_->setObjectName("placementEditor");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(14, 12, 14, 8);
    box->setSpacing(7);
    box->addWidget(head_);
    tabs_->setObjectName("benchTabs");
    tabs_->setDrawBase(false);
    tabs_->setExpanding(false);
    tabs_->setUsesScrollButtons(false);
    for (Page* part : std::initializer_list<Page*>{falloff_, facing_, placement_, area_, bed_, sprinkle_, roamer_, steps_,
                                                   pulse_, starting_}) {
        parts_->addWidget(part);
        // Room that is left over stays below, not between the rows.
        if (auto* rows = qobject_cast<QBoxLayout*>(part->layout())) {
            rows->addStretch(1);
        }
        part->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Ignored);
        connect(part, &Page::drawWanted, this, &Page::drawWanted);
        connect(part, &Page::fitWanted, this, &Page::fitWanted);
        connect(part, &Page::previewed, this, &Page::previewed);
    }
    connect(head_, &EmitterHead::soundWanted, this, &EmitterPage::soundWanted);
    connect(tabs_, &QTabBar::currentChanged, this, &EmitterPage::refresh);
    about_->setObjectName("aboutPart");
    about_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    box->addWidget(tabs_);
    box->addWidget(about_);
    box->addWidget(parts_);
    box->addStretch();
}

void EmitterPage::compare()
{
    falloff_->compare();
}

void EmitterPage::refresh()
{
    if (const Emitter* emitter = session_.subject()) {
        head_->refresh();
        refreshTabs(*emitter);
    }
}

void EmitterPage::follow()
{
    for (int i = 0; i < parts_->count(); ++i) {
        if (auto* part = static_cast<Page*>(parts_->widget(i)); part->isVisible()) {
            part->follow();
        }
    }
}

/// The tabs are those that mean something for the kind.
void EmitterPage::refreshTabs(const Emitter& emitter)
{
    const EmitterKind kind = emitter.kind;
    struct Tab {
        QString name;
        Page* part;
        QString about;
    };
    std::vector<Tab> wanted;
    const Tab own[] = {{{}, nullptr, {}},
                       {tr("Bed"), bed_, tr("Sounds all round the ears, everywhere or in its zone.")},
                       {tr("Area"), area_, tr("The shape that sounds; inside of it, all round.")},
                       {tr("Sprinkle"), sprinkle_, tr("Single sounds here and there: when, where, which.")},
                       {tr("Route"), roamer_, tr("Where it goes, how fast, what it plays at its stops.")},
                       {tr("Steps"), steps_, tr("A sound for each step, by what lies under the feet.")},
                       {tr("Pulse"), pulse_, tr("A beat that quickens as an edge of the floor gets nearer.")}};
    if (const Tab& first = own[static_cast<std::size_t>(kind)]; first.part != nullptr) {
        wanted.push_back(first);
    }
    if (kind != EmitterKind::bed || !emitter.zone.empty()) {
        wanted.push_back({tr("Falloff"), falloff_, tr("Level and tone by distance. Drag points, or the rings.")});
    }
    const bool faces = kind != EmitterKind::bed && kind != EmitterKind::area;
    wanted.push_back({faces ? tr("Facing") : tr("Lanes"), facing_,
                      faces ? tr("Off its front, by side, and whatever else it follows.")
                            : tr("What level and tone follow beside the distance.")});
    if (kind != EmitterKind::bed) {
        wanted.push_back({tr("Placement"), placement_, tr("From its place in the world, or fixed in the ears.")});
    }
    if (kind != EmitterKind::steps) {
        wanted.push_back({tr("Start"), starting_, tr("What starts and stops it, and on what it rides.")});
    }
    const QSignalBlocker quiet(tabs_);
    const QString current = tabs_->tabText(tabs_->currentIndex());
    bool same = tabs_->count() == static_cast<int>(wanted.size());
    for (int i = 0; same && i < tabs_->count(); ++i) {
        same = tabs_->tabText(i) == wanted[static_cast<std::size_t>(i)].name;
    }
    if (!same) {
        while (tabs_->count() > 0) {
            tabs_->removeTab(0);
        }
        int keep = 0;
        for (const Tab& each : wanted) {
            const int index = tabs_->addTab(each.name);
            keep = each.name == current ? index : keep;
        }
        tabs_->setCurrentIndex(keep);
    }
    const Tab& tab = wanted[static_cast<std::size_t>(std::max(tabs_->currentIndex(), 0))];
    about_->setText(tab.about);
    Page* shown = tab.part;
    // Only the shown part asks for room.
    for (int i = 0; i < parts_->count(); ++i) {
        QWidget* part = parts_->widget(i);
        part->setSizePolicy(QSizePolicy::Preferred, part == shown ? QSizePolicy::Maximum : QSizePolicy::Ignored);
    }
    parts_->setCurrentWidget(shown);
    shown->refresh();
}

} // namespace stone
