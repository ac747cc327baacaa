// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/cost.h"

#include <QElapsedTimer>

#include <deque>
#include <memory>

namespace stone
{

/// What the last minute has cost, half a second at a time: the engine's stages and sounds, the window's thread, and the whole
/// process. Window thread.
class CostHistory
{
public:
    struct Entry {
        std::shared_ptr<const Costs> costs;
        double wall_s = 0.0;    ///< for how long it is
        double window_s = 0.0;  ///< processor time of the window's thread
        double process_s = 0.0; ///< of all threads together

        /// What neither a stage nor the window's thread has used: device, loading, helpers.
        double rest_s() const;
    };

    /// Takes up what the engine has measured; the same once more changes nothing.
    void take(const std::shared_ptr<const Costs>& costs);
    /// Nobody listens any more: the next entry begins anew.
    void interrupt();

    const std::deque<Entry>& entries() const { return entries_; }
    static constexpr std::size_t kept = 120;

private:
    std::deque<Entry> entries_;
    QElapsedTimer since_;
    double window_s_ = 0.0;
    double process_s_ = 0.0;
};

} // namespace stone
