// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/output.h"
#include "takes/take_compare.h"
#include "takes/take_player.h"

#include <QObject>

#include <memory>

namespace stone
{

/// The sound of the take that is looked at, through an output of its own: while it is open the engine stands still. Window
/// thread only.
class TakeListening : public QObject
{
    Q_OBJECT

public:
    TakeListening(Output::Open open, QObject* parent);
    ~TakeListening() override;

    void choose(const QString& output) { output_.choose(output); }
    /// Plays a take from a time on and, where there is another, that one in step beside it. One line says what does not work;
    /// empty: it all does. Where the other cannot be played the first does.
    QString begin(const Take& take, const std::shared_ptr<const Take>& other, double from_s);
    void end();
    bool playing() const { return player_ != nullptr; }
    void seek(double t_s);
    /// Which of the two is heard, at the same moment.
    void hearOther(bool other);
    bool hearsOther() const { return other_; }
    bool hasOther() const { return player_ && player_->hasOther(); }
    double position_s() const { return player_ ? player_->position_s() : 0.0; }
    bool over() const { return player_ && player_->over(); }
    /// What plays; null: nothing does.
    TakePlayer* player() const { return player_.get(); }
    /// Goes on without sound where the output has stopped answering.
    void watch() { output_.watch(); }

signals:
    void failed(const QString& message);

private:
    std::unique_ptr<TakePlayer> player_;
    Output output_;
    bool other_ = false;
};

} // namespace stone
