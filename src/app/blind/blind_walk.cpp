// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/blind/blind_walk.h"

#include "app/theme/theme.h"

namespace stone
{

namespace
{

/// A point of the path for each so many metres.
constexpr double every_m = 0.2;

} // namespace

BlindWalk::BlindWalk(Session& session, Playback& playback, QObject* parent)
    : QObject(parent), session_(session), playback_(playback)
{
    connect(&playback_, &Playback::ticked, this, &BlindWalk::follow);
    connect(&session_, &Session::documentChanged, this, [this] {
        if (session_.levelId() != level_) {
            forget();
        }
    });
}

void BlindWalk::forget()
{
    const bool shown = on_ || !path_.empty();
    on_ = false;
    path_.clear();
    bumps_.clear();
    level_ = session_.levelId();
    if (shown) {
        emit changed();
    }
}

void BlindWalk::begin()
{
    on_ = true;
    level_ = session_.levelId();
    path_ = {playback_.feet().at};
    bumps_.clear();
    bumpsSeen_ = playback_.walker().bumps();
    fallsBefore_ = playback_.walker().falls();
    falls_ = 0;
    clock_.start();
    emit changed();
}

void BlindWalk::end()
{
    if (on_) {
        follow();
        path_.push_back(playback_.feet().at);
        seconds_ = static_cast<double>(clock_.elapsed()) / 1000.0;
        on_ = false;
        emit changed();
    }
}

void BlindWalk::follow()
{
    if (!on_) {
        return;
    }
    const Vec3& here = playback_.feet().at;
    if (glm::length(here - path_.back()) >= every_m) {
        path_.push_back(here);
    }
    if (const int bumps = playback_.walker().bumps(); bumps != bumpsSeen_) {
        bumpsSeen_ = bumps;
        bumps_.push_back(here);
    }
    falls_ = playback_.walker().falls() - fallsBefore_;
}

double BlindWalk::metres() const
{
    double length = 0.0;
    for (std::size_t i = 1; i < path_.size(); ++i) {
        length += glm::length(path_[i] - path_[i - 1]);
    }
    return length;
}

double BlindWalk::seconds() const
{
    return on_ ? static_cast<double>(clock_.elapsed()) / 1000.0 : seconds_;
}

QString BlindWalk::words() const
{
    const auto counted = [](int n, const QString& one, const QString& several) {
        return n == 1 ? one : several.arg(n == 0 ? tr("no") : QString::number(n));
    };
    return tr("%1 in %2 s, %3, %4")
        .arg(theme::metres(metres()))
        .arg(seconds(), 0, 'f', 0)
        .arg(counted(static_cast<int>(bumps_.size()), tr("one bump"), tr("%1 bumps")),
             counted(falls_, tr("one fall"), tr("%1 falls")));
}

} // namespace stone
