// SPDX-License-Identifier: MPL-2.0
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <cstdint>

namespace stone
{

/// What a line of the Ledger is about.
enum class TermKind : std::uint8_t {
    sound,
    emitter,
    family,
    distance,  ///< the falloff's level lane
    reach,     ///< the end of reach of a formula
    facing,    ///< level lane over the angle off the front
    direction, ///< level lane over the direction round the ears
    walls,     ///< what stands between
    placement, ///< for what is not wholly in the world: the five above and the part in the ears, as one
    speed,     ///< level lane over the speed
    depth,     ///< level lane over the depth in its zone
    value,     ///< level lanes over game values
    gaze,      ///< level lanes over the gaze
    zones,     ///< what other zones leave of the one that it belongs to
    resting,   ///< a Roamer that is heard only on its way
    fadingOut, ///< it was stopped
    shared,    ///< an area whose voice is that of another
    muted,
    familyMuted,
    mutedForEars, ///< by whoever listens, as is solo
    soloElsewhere,
    noSound, ///< it has none, or none that can be read
    timing,
    gaveWay ///< there was no room for all: see Heard::gaveWay
};
constexpr std::size_t termKinds = static_cast<std::size_t>(TermKind::gaveWay) + 1;

/// One line of the Ledger: a level that is added on the way from the recorded sound to the ears.
struct Term {
    TermKind kind;
    double db; ///< minus infinity: this alone makes it silent
};

/// The lines of one sum, in a fixed array so that a control step allocates nothing.
class Terms
{
public:
    // Lines that are not there are neither cleared nor copied: that took a third of the time of deciding what is heard.
    Terms() = default;
    Terms(const Terms& other) : count_(other.count_) { std::copy(other.begin(), other.end(), items_.begin()); }
    Terms& operator=(const Terms& other)
    {
        count_ = other.count_;
        std::copy(other.begin(), other.end(), items_.begin());
        return *this;
    }
    ~Terms() = default;

    static constexpr std::size_t most = 24;

    void add(TermKind kind, double db) { items_[count_++] = {kind, db}; }
    /// Before the first of a later kind.
    void insert(TermKind kind, double db)
    {
        Term* const place =
            std::find_if(items_.data(), items_.data() + count_, [&](const Term& term) { return term.kind > kind; });
        Term* const last = items_.data() + count_++;
        std::move_backward(place, last, last + 1);
        *place = {kind, db};
    }
    /// Null: there is no such line.
    Term* find(TermKind kind)
    {
        Term* const past = items_.data() + count_;
        Term* const found = std::find_if(items_.data(), past, [&](const Term& term) { return term.kind == kind; });
        return found != past ? found : nullptr;
    }
    const Term* begin() const { return items_.data(); }
    const Term* end() const { return items_.data() + count_; }
    std::size_t size() const { return count_; }

    /// The sum, in the order of the lines.
    double total() const
    {
        double sum = 0.0;
        for (const Term& term : *this) {
            sum += term.db;
        }
        return sum;
    }

private:
    std::array<Term, most> items_;
    std::size_t count_ = 0;
};

/// The line's name as people read it.
const char* termName(TermKind kind);

} // namespace stone
