// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/crowd/crowd_panel.h"

#include "app/theme/labels.h"

#include <QVBoxLayout>

#include <algorithm>

namespace stone
{

namespace
{

LimitFields::Of fieldsOf(VoicesView::Of of)
{
    return of == VoicesView::Of::sound    ? LimitFields::Of::sound
           : of == VoicesView::Of::family ? LimitFields::Of::family
                                          : LimitFields::Of::level;
}

} // namespace

CrowdPanel::CrowdPanel(VoicesView::Of of, const QString& name, Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), of_(of), session_(session), playback_(playback), fields_(new LimitFields(fieldsOf(of), name)),
      view_(new VoicesView(of, playback.voiceHistory())), now_(theme::caption({})), gaveWay_(theme::explained({}))
{
    view_->setObjectName(name + "Voices");
    now_->setObjectName(name + "Now");
    gaveWay_->setObjectName(name + "GaveWay");
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 4, 0, 0);
    box->setSpacing(4);
    box->addWidget(fields_);
    box->addWidget(now_);
    box->addWidget(view_, 1);
    box->addWidget(gaveWay_);
    connect(fields_, &LimitFields::edited, this, &CrowdPanel::edit);
    connect(fields_, &LimitFields::gestureEnded, this, [this] { session_.endGesture(); });
    connect(view_, &VoicesView::limitDragged, this, [this](int atOnce, bool done) {
        if (atOnce != limit().atOnce) {
            edit(atOnce == 0 ? tr("no limit") : tr("%1 at once").arg(atOnce), "limit line",
                 [atOnce](Limit& l) { l.atOnce = atOnce; });
        }
        if (done) {
            session_.endGesture();
        }
    });
    connect(&session_, &Session::documentChanged, this, &CrowdPanel::refresh);
    connect(&playback_, &Playback::ticked, this, [this] {
        if (isVisible()) {
            tellWhoGaveWay();
            view_->update();
        }
    });
}

void CrowdPanel::showSound(const SoundId& id)
{
    sound_ = id;
    view_->showSound(id);
    refresh();
}

void CrowdPanel::showFamily(const FamilyId& id)
{
    family_ = id;
    view_->showFamily(id);
    refresh();
}

Limit CrowdPanel::limit() const
{
    const Project& project = session_.project();
    if (of_ == VoicesView::Of::level) {
        return {.atOnce = project.voices, .givesWay = project.voicesGiveWay, .holdOff_s = project.voicesHoldOff_s};
    }
    const Sound* sound = project.sounds.find(sound_);
    const Family* family = project.families.find(family_);
    return of_ == VoicesView::Of::sound ? (sound != nullptr ? sound->limit : Limit{})
                                        : (family != nullptr ? family->limit : Limit{});
}

void CrowdPanel::edit(const QString& what, const QString& gesture, const std::function<void(Limit&)>& change)
{
    if (of_ == VoicesView::Of::sound) {
        session_.editSound(sound_, what, gesture, [&](Sound& s) { change(s.limit); });
    } else if (of_ == VoicesView::Of::family) {
        session_.editFamily(family_, what, gesture, [&](Family& f) { change(f.limit); });
    } else {
        Limit next = limit();
        change(next);
        Project project = session_.project();
        project.voices = next.atOnce;
        project.voicesGiveWay = next.givesWay;
        project.voicesHoldOff_s = next.holdOff_s;
        session_.edit(std::move(project), tr("Voices of the level: %1").arg(what), gesture);
    }
}

void CrowdPanel::refresh()
{
    fields_->present(limit());
    view_->showLimit(limit().atOnce);
    tellWhoGaveWay();
}

/// How many sound now, and the last that gave way: to whom, and why.
void CrowdPanel::tellWhoGaveWay()
{
    const auto spans = view_->shown();
    const double now_s = playback_.voiceHistory().now_s();
    const auto sounding = [&](VoiceHistory::State state) {
        return std::count_if(spans.begin(), spans.end(),
                             [&](const auto* span) { return span->state == state && span->to_s >= now_s; });
    };
    const auto asleep = sounding(VoiceHistory::State::asleep);
    QString now = tr("now %1").arg(sounding(VoiceHistory::State::sounded));
    if (asleep > 0) {
        now += tr(", %1 asleep").arg(asleep);
    }
    const auto turnedAway = std::count_if(spans.begin(), spans.end(), [](const auto* span) {
        return span->state == VoiceHistory::State::refused || span->state == VoiceHistory::State::dropped;
    });
    if (turnedAway > 0) {
        now += tr(" · in 20 s %1 refused or dropped").arg(turnedAway);
    }
    now_->setText(playback_.listening() ? now : tr("Listen, and what sounds is drawn here."));
    QStringList lines;
    for (auto span = spans.rbegin(); span != spans.rend() && lines.size() < 2; ++span) {
        if ((*span)->state != VoiceHistory::State::sounded) {
            const QString what = (*span)->state == VoiceHistory::State::asleep    ? tr("asleep")
                                 : (*span)->state == VoiceHistory::State::refused ? tr("refused")
                                                                                  : tr("dropped");
            lines << tr("%1 %2 %3, %4").arg(theme::clock((*span)->from_s), (*span)->name, what, (*span)->why);
        }
    }
    gaveWay_->setText(lines.join('\n'));
}

} // namespace stone
