// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/game/game_desk.h"

#include "follow/told_changes.h"
#include "project/file_error.h"

#include <algorithm>
#include <cmath>

namespace stone
{

GameDesk::GameDesk(Session& session, Playback& playback, QObject* parent)
    : QObject(parent), session_(session), playback_(playback)
{
    connect(&session_, &Session::documentChanged, this, &GameDesk::followDocument);
    connect(&playback_, &Playback::ticked, this, &GameDesk::tick);
}

GameDesk::~GameDesk()
{
    if (on()) {
        playback_.follow(nullptr);
    }
}

QString GameDesk::begin(int port, bool anywhere)
{
    end();
    auto follower = std::make_shared<Follower>();
    follower->setDocument(session_.document(), session_.level().id);
    try {
        link_ = std::make_unique<GameLink>(follower, port, anywhere);
    } catch (const FileError& error) {
        return QString::fromStdString(error.what());
    }
    follower_ = std::move(follower);
    anywhere_ = anywhere;
    things_ = 0;
    gone_ = {};
    told_ = session_.document();
    toldOf_ = session_.level().id;
    sinceTold_.start();
    playback_.follow(follower_);
    if (!playback_.listening()) {
        playback_.setListening(true);
    }
    emit changed();
    return {};
}

void GameDesk::end()
{
    if (!on()) {
        return;
    }
    playback_.follow(nullptr);
    playback_.setThings({});
    link_.reset();
    follower_.reset();
    emit changed();
}

Follower::Report GameDesk::report() const
{
    return follower_ ? follower_->report() : Follower::Report{};
}

QStringList GameDesk::games() const
{
    QStringList words;
    if (link_) {
        for (const std::string& game : link_->games()) {
            words << QString::fromStdString(game);
        }
    }
    return words;
}

QString GameDesk::words() const
{
    const Follower::Report now = report();
    constexpr double quiet_s = 2.0;
    if (now.silentFor_s > quiet_s) {
        return tr("Listening along on port %1: no game tells anything%2")
            .arg(port())
            .arg(std::isfinite(now.silentFor_s) ? tr(", since %1 s").arg(qRound(now.silentFor_s)) : QString());
    }
    QString text = tr("Listening along on port %1: %2 messages a second").arg(port()).arg(qRound(now.perSecond));
    if (!now.unknown.empty()) {
        text += tr(", names that are not here: %1").arg(now.unknown.size());
    }
    return text;
}

void GameDesk::followDocument()
{
    if (!on()) {
        return;
    }
    const LevelId level = session_.level().id;
    follower_->setDocument(session_.document(), level);
    if (session_.document() == told_) {
        return;
    }
    std::vector<OscMessage> told =
        level == toldOf_ ? changesTold(*told_, *session_.document(), level) : std::vector<OscMessage>{};
    told.push_back({"/stone/changed", {static_cast<double>(++changes_)}});
    link_->tell(told);
    told_ = session_.document();
    toldOf_ = level;
}

void GameDesk::tick()
{
    if (!on()) {
        return;
    }
    if (const LevelId wanted = follower_->level(); wanted != gone_) {
        gone_ = wanted;
        if (wanted != session_.level().id && session_.project().levels.find(wanted) != nullptr) {
            session_.showLevel(wanted);
            follower_->setDocument(session_.document(), wanted);
        }
    }
    if (follower_->thingsSerial() != things_) {
        const auto [serial, things] = follower_->things();
        things_ = serial;
        playback_.setThings(things);
    }
    if (static_cast<double>(sinceTold_.elapsed()) >= tellHeardEvery_s * 1000.0) {
        sinceTold_.start();
        tellHeard();
        emit changed();
    }
}

void GameDesk::tellHeard()
{
    link_->tell(heardTold(playback_.hearing().level(), playback_.heardInReach()));
}

} // namespace stone
