// SPDX-License-Identifier: MPL-2.0
#include "takes/moment_codec.h"

#include "takes/take_bytes.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace stone
{

namespace
{

/// Stands for minus infinity among hundredths.
constexpr std::int64_t nothing = -1'000'000;
constexpr double loudest_db = 9'000.0;

// What of a copy is said anew.
constexpr std::uint8_t saysAudible = 1U << 0U; ///< not whether it is said, but so
constexpr std::uint8_t saysLevel = 1U << 1U;
constexpr std::uint8_t saysTerms = 1U << 2U;   ///< other lines
constexpr std::uint8_t saysNumbers = 1U << 3U; ///< the same lines with other numbers
constexpr std::uint8_t saysPlace = 1U << 4U;
constexpr std::uint8_t saysDirection = 1U << 5U;
constexpr std::uint8_t saysGaveWay = 1U << 6U;

std::int64_t inCentimetres(double metres)
{
    return std::llround(std::clamp(metres, -1e9, 1e9) * 100.0);
}

std::int64_t inHundredthsOfDegrees(double degrees)
{
    return std::isfinite(degrees) ? std::llround(std::remainder(degrees, 360.0) * 100.0) : 0;
}

std::int64_t inHundredths(double share)
{
    return std::llround(std::clamp(share, -1.0, 1.0) * 100.0);
}

double fromCenti(std::int64_t value)
{
    return value <= nothing ? -std::numeric_limits<double>::infinity() : static_cast<double>(value) / 100.0;
}

void write(ByteWriter& out, const Vec3& now, const Vec3& before, std::int64_t (*in)(double))
{
    for (int i = 0; i < 3; ++i) {
        out.whole(in(now[i]) - in(before[i]));
    }
}

Vec3 read(ByteReader& in, const Vec3& before, std::int64_t (*of)(double))
{
    Vec3 now{0.0};
    for (int i = 0; i < 3; ++i) {
        now[i] = static_cast<double>(of(before[i]) + in.whole()) / 100.0;
    }
    return now;
}

void write(ByteWriter& out, const Pose& now, const Pose& before)
{
    write(out, now.at, before.at, inCentimetres);
    for (double Pose::*angle : {&Pose::heading_deg, &Pose::pitch_deg, &Pose::roll_deg}) {
        out.whole(inHundredthsOfDegrees(now.*angle) - inHundredthsOfDegrees(before.*angle));
    }
}

Pose read(ByteReader& in, const Pose& before)
{
    Pose now;
    now.at = read(in, before.at, inCentimetres);
    for (double Pose::*angle : {&Pose::heading_deg, &Pose::pitch_deg, &Pose::roll_deg}) {
        now.*angle = static_cast<double>(inHundredthsOfDegrees(before.*angle) + in.whole()) / 100.0;
    }
    return now;
}

constexpr double TakenMoment::*loudnesses[] = {&TakenMoment::momentary_lufs, &TakenMoment::shortTerm_lufs,
                                               &TakenMoment::integrated_lufs, &TakenMoment::peak_db};

bool sameLines(const Terms& a, const Terms& b)
{
    return std::equal(a.begin(), a.end(), b.begin(), b.end(), [](const Term& x, const Term& y) { return x.kind == y.kind; });
}

std::int64_t tenthsOfMilliseconds(double seconds)
{
    return std::llround(seconds * 1e4);
}

/// What has been read of a chunk so far.
struct Decoder {
    ByteReader in;
    TakenMoment last{};
    std::unordered_map<std::uint32_t, TakenCopy> copies{};
    std::unordered_map<std::uint32_t, std::int64_t> rooms{};

    TakenCopy copy(std::uint32_t number)
    {
        TakenCopy& known = copies[number];
        known.copy = number;
        const std::uint8_t says = in.byte();
        known.audible = (says & saysAudible) != 0;
        if ((says & saysLevel) != 0) {
            known.level_db = fromCenti(MomentEncoder::centi(known.level_db) + in.whole());
        }
        if ((says & saysTerms) != 0) {
            Terms terms;
            const std::uint64_t count = in.count();
            for (std::uint64_t i = 0; i < std::min<std::uint64_t>(count, Terms::most) && !in.failed(); ++i) {
                const auto kind = static_cast<TermKind>(std::min<std::size_t>(in.byte(), termKinds - 1));
                terms.add(kind, fromCenti(in.whole()));
            }
            known.terms = terms;
        } else if ((says & saysNumbers) != 0) {
            const std::uint64_t changed = in.count();
            Terms terms;
            std::size_t i = 0;
            for (const Term& term : known.terms) {
                const bool other = (changed >> i++ & 1U) != 0;
                terms.add(term.kind, other ? fromCenti(MomentEncoder::centi(term.db) + in.whole()) : term.db);
            }
            known.terms = terms;
        }
        if ((says & saysPlace) != 0) {
            known.at = read(in, known.at, inCentimetres);
        }
        if ((says & saysDirection) != 0) {
            known.direction = read(in, known.direction, inHundredths);
        }
        if ((says & saysGaveWay) != 0) {
            const std::uint8_t what = in.byte();
            if (what == 0) {
                known.gaveWay.reset();
            } else {
                GaveWay why;
                why.crowd = static_cast<Crowd>(std::min(what - 1, 2));
                why.rule = static_cast<GivesWay>(std::min<std::uint8_t>(in.byte(), 3));
                why.atOnce = static_cast<int>(in.count());
                why.to = static_cast<std::uint32_t>(in.count());
                why.since_s = static_cast<double>(in.whole()) / 1e4;
                const std::uint8_t flags = in.byte();
                why.forGood = (flags & 1U) != 0;
                why.sounded = (flags & 2U) != 0;
                why.wouldBe_db = fromCenti(in.whole());
                known.gaveWay = why;
            }
        }
        return known;
    }

    TakenMoment moment()
    {
        TakenMoment now = last;
        now.copies.clear();
        now.rooms.clear();
        now.t_s = static_cast<double>(tenthsOfMilliseconds(last.t_s) + in.whole()) / 1e4;
        now.level_s = static_cast<double>(tenthsOfMilliseconds(last.level_s) + in.whole()) / 1e4;
        const std::int64_t walk = in.whole();
        now.walk_s = walk < 0 ? -1.0 : static_cast<double>(walk) / 1e4;
        now.feet = read(in, last.feet);
        now.ears = read(in, last.ears);
        now.voices = static_cast<std::uint32_t>(in.count());
        now.gaveWay = static_cast<std::uint32_t>(in.count());
        for (double TakenMoment::*level : loudnesses) {
            now.*level = fromCenti(MomentEncoder::centi(last.*level) + in.whole());
        }
        const std::uint64_t values = in.count();
        now.values.clear();
        for (std::uint64_t i = 0; i < values && !in.failed(); ++i) {
            now.values.push_back(static_cast<double>(in.real()));
        }
        const std::uint64_t roomsHeard = in.count();
        for (std::uint64_t i = 0; i < roomsHeard && !in.failed(); ++i) {
            const auto room = static_cast<std::uint32_t>(in.count());
            std::int64_t& level = rooms[room];
            level += in.whole();
            now.rooms.push_back({room, fromCenti(level)});
        }
        const std::uint64_t heard = in.count();
        std::uint64_t number = 0;
        for (std::uint64_t i = 0; i < heard && !in.failed(); ++i) {
            number += in.count();
            now.copies.push_back(copy(static_cast<std::uint32_t>(number)));
        }
        last = now;
        return now;
    }
};

} // namespace

std::int64_t MomentEncoder::centi(double value)
{
    return value > -loudest_db ? std::llround(std::min(value, loudest_db) * 100.0) : nothing;
}

void MomentEncoder::addCopy(const TakenCopy& copy)
{
    const auto [known, fresh] = copies_.try_emplace(copy.copy);
    TakenCopy& before = known->second.copy;
    ByteWriter out;
    std::uint8_t says = copy.audible ? saysAudible : 0;
    if (centi(copy.level_db) != centi(before.level_db)) {
        says |= saysLevel;
        out.whole(centi(copy.level_db) - centi(before.level_db));
    }
    if (!sameLines(copy.terms, before.terms)) {
        says |= saysTerms;
        out.count(copy.terms.size());
        for (const Term& term : copy.terms) {
            out.byte(static_cast<std::uint8_t>(term.kind));
            out.whole(centi(term.db));
        }
    } else {
        std::uint64_t changed = 0;
        std::size_t i = 0;
        for (const Term& term : copy.terms) {
            changed |= centi(term.db) != centi((before.terms.begin() + i)->db) ? std::uint64_t(1) << i : 0U;
            ++i;
        }
        if (changed != 0) {
            says |= saysNumbers;
            out.count(changed);
            i = 0;
            for (const Term& term : copy.terms) {
                if ((changed >> i & 1U) != 0) {
                    out.whole(centi(term.db) - centi((before.terms.begin() + i)->db));
                }
                ++i;
            }
        }
    }
    const auto differs = [](const Vec3& a, const Vec3& b, std::int64_t (*in)(double)) {
        return in(a.x) != in(b.x) || in(a.y) != in(b.y) || in(a.z) != in(b.z);
    };
    if (differs(copy.at, before.at, inCentimetres)) {
        says |= saysPlace;
        write(out, copy.at, before.at, inCentimetres);
    }
    if (differs(copy.direction, before.direction, inHundredths)) {
        says |= saysDirection;
        write(out, copy.direction, before.direction, inHundredths);
    }
    if (copy.gaveWay != before.gaveWay) {
        says |= saysGaveWay;
        if (!copy.gaveWay) {
            out.byte(0);
        } else {
            const GaveWay& why = *copy.gaveWay;
            out.byte(static_cast<std::uint8_t>(1U + static_cast<unsigned>(why.crowd)));
            out.byte(static_cast<std::uint8_t>(why.rule));
            out.count(static_cast<std::uint64_t>(why.atOnce));
            out.count(why.to);
            out.whole(tenthsOfMilliseconds(std::isfinite(why.since_s) ? why.since_s : 0.0));
            out.byte(static_cast<std::uint8_t>((why.forGood ? 1U : 0U) | (why.sounded ? 2U : 0U)));
            out.whole(centi(why.wouldBe_db));
        }
    }
    body_.push_back(static_cast<char>(says));
    body_ += out.bytes();
    before = copy;
}

void MomentEncoder::add(const TakenMoment& moment)
{
    ByteWriter out;
    out.whole(tenthsOfMilliseconds(moment.t_s) - tenthsOfMilliseconds(last_.t_s));
    out.whole(tenthsOfMilliseconds(moment.level_s) - tenthsOfMilliseconds(last_.level_s));
    out.whole(moment.walk_s < 0.0 ? -1 : tenthsOfMilliseconds(moment.walk_s));
    write(out, moment.feet, last_.feet);
    write(out, moment.ears, last_.ears);
    out.count(moment.voices);
    out.count(moment.gaveWay);
    for (double TakenMoment::*level : loudnesses) {
        out.whole(centi(moment.*level) - centi(last_.*level));
    }
    out.count(moment.values.size());
    for (const double value : moment.values) {
        out.real(static_cast<float>(value));
    }
    out.count(moment.rooms.size());
    for (const TakenRoom& room : moment.rooms) {
        out.count(room.room);
        std::int64_t& before = rooms_[room.room];
        out.whole(centi(room.level_db) - before);
        before = centi(room.level_db);
    }
    out.count(moment.copies.size());
    body_ += out.bytes();
    std::uint32_t before = 0;
    for (const TakenCopy& copy : moment.copies) {
        ByteWriter number;
        number.count(copy.copy - before);
        before = copy.copy;
        body_ += number.bytes();
        addCopy(copy);
    }
    // As it will be read: what is rounded away is not lost twice.
    last_ = moment;
    last_.copies.clear();
    ++count_;
}

std::string MomentEncoder::take()
{
    ByteWriter head;
    head.count(count_);
    std::string chunk = head.bytes() + body_;
    *this = MomentEncoder();
    return chunk;
}

std::vector<TakenMoment> decodeMoments(std::string_view chunk)
{
    Decoder decoder{ByteReader(chunk)};
    const std::uint64_t count = decoder.in.count();
    std::vector<TakenMoment> moments;
    for (std::uint64_t i = 0; i < count; ++i) {
        TakenMoment moment = decoder.moment();
        if (decoder.in.failed()) {
            break;
        }
        moments.push_back(std::move(moment));
    }
    return moments;
}

} // namespace stone
