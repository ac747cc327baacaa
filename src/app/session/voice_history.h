// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/live.h"

#include <QString>

#include <cstdint>
#include <map>
#include <memory>
#include <unordered_map>

namespace stone
{

/// What the copies of sounds did while somebody listened, over the last minute: when each sounded, and who gave way to whom.
/// Window thread.
class VoiceHistory
{
public:
    enum class State {
        sounded,
        asleep,  ///< gave way, and comes back
        refused, ///< never sounded; `to_s` is `from_s`
        dropped  ///< sounded until then; likewise
    };

    struct Span {
        State state = State::sounded;
        EmitterId emitter;
        QString name;
        EmitterKind kind = EmitterKind::point;
        SoundId sound;
        FamilyId family;
        double from_s = 0.0; ///< the level's time
        double to_s = 0.0;   ///< so far
        QString why;         ///< it gave way; empty where it did not
        /// The lowest row that was free as it began, among those of its sound, of its family, and of all.
        struct Rows {
            int sound = 0;
            int family = 0;
            int level = 0;
        } rows;
    };

    /// Goes on with what was heard. The same step twice changes nothing; a time before the last begins anew.
    void take(const std::shared_ptr<const HeardStep>& step);
    void clear();

    /// By a number that counts them in the order in which they began.
    const std::map<std::uint64_t, Span>& spans() const { return spans_; }
    /// The time up to which it goes, the level's.
    double now_s() const { return now_s_; }

    static constexpr double kept_s = 60.0;

private:
    std::uint64_t begin(State state, const HeardStep& step, const Heard& heard);
    void place(Span& span) const;
    void forgetOld();

    struct Open {
        std::uint64_t number; ///< of its span
        State state;
    };

    std::map<std::uint64_t, Span> spans_;
    std::uint64_t next_ = 0;
    double tidied_s_ = 0.0;
    std::unordered_map<std::uint64_t, Open> open_;
    std::weak_ptr<const Scene> scene_;
    double now_s_ = 0.0;
};

} // namespace stone
