// SPDX-License-Identifier: MPL-2.0
#include "engine/course.h"

#include "acoustics/curve.h"
#include "project/chance.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <numbers>
#include <numeric>
#include <utility>

namespace stone
{

namespace
{

/// Strand numbers stand above piece numbers in a serial.
constexpr unsigned strandShift = 40;
/// A piece cut out of a file must not begin or end with a click.
constexpr double cutFade_s = 0.02;
/// From the beginning of a piece to that of the next.
constexpr double leastBetween_s = 0.01;
constexpr double day_s = 86'400.0;

double between(double least, double most, double share)
{
    return least + (most - least) * share;
}

/// Noise that goes smoothly from one number of chance to the next: cubic steps between values in [-1, 1].
template <class Values> double wander(double x, Values&& values)
{
    const double whole = std::floor(x);
    const double t = x - whole;
    const auto index = static_cast<std::uint64_t>(std::max(whole, 0.0));
    const double a = values(index);
    const double b = values(index + 1);
    return a + (b - a) * t * t * (3.0 - 2.0 * t);
}

} // namespace

/// A line of pieces one after another, or one piece for all time. Pieces are made as they are asked for.
class Course::Strand
{
public:
    enum class Kind { fixed, run, slices, accents };

    Strand(Kind kind, std::uint64_t number, std::vector<std::size_t> files)
        : kind_(kind), number_(number), files_(std::move(files))
    {
    }

    void during(const Course& course, double from, double to, std::vector<Piece>& pieces)
    {
        if (!started_ || from < forgottenUntil_) {
            start(course);
        }
        forget(from);
        while (!over_ && next_ < to) {
            make(course);
            forget(from);
        }
        for (const Piece& piece : made_) {
            if (piece.begins < to && piece.ends > from) {
                pieces.push_back(piece);
            }
        }
    }

    double frames(const Course& course)
    {
        if (kind_ != Kind::fixed && course.sound_->loop) {
            return boundless;
        }
        start(course);
        double last = 0.0;
        while (!over_) {
            make(course);
            last = std::max(last, made_.back().ends);
            made_.pop_front();
        }
        started_ = false;
        return last;
    }

private:
    void forget(double before)
    {
        while (!made_.empty() && made_.front().ends <= before) {
            forgottenUntil_ = std::max(forgottenUntil_, made_.front().ends);
            made_.pop_front();
        }
    }

    void start(const Course& course)
    {
        started_ = true;
        over_ = false;
        count_ = 0;
        made_.clear();
        forgottenUntil_ = 0.0;
        crossFade_ = 0.0;
        next_ = std::round(course.sound_->delay_s * course.rate_);
        const std::string purpose = number_ == 0 ? "file" : "file " + std::to_string(number_);
        picker_.emplace(course.seed_, course.id_, purpose, course.sound_->sequence.order, files_.size());
        if (kind_ == Kind::accents) {
            next_ += gap(course, 0);
        }
    }

    double gap(const Course& course, std::uint64_t number) const
    {
        const Sequence& sequence = course.sound_->sequence;
        return std::round(course.rate_ * between(sequence.gapLeast_s, sequence.gapMost_s, course.draw("gap", serial(number))));
    }

    std::uint64_t serial(std::uint64_t number) const { return (number_ << strandShift) | number; }

    void make(const Course& course)
    {
        switch (kind_) {
        case Kind::fixed: makeFixed(course); break;
        case Kind::run: makeRun(course); break;
        case Kind::slices: makeSlice(course); break;
        case Kind::accents: makeAccent(course); break;
        }
        ++count_;
        // Whatever the numbers say, a strand moves on: not even files of a few frames make more than a hundred pieces a second.
        next_ = std::max(next_, made_.back().begins + std::ceil(course.rate_ * leastBetween_s));
    }

    void makeFixed(const Course& course)
    {
        const std::size_t file = files_.size() > 1 ? files_[picker_->next()] : files_.front();
        Piece piece = course.wholeFile(serial(0), file);
        piece.begins += next_;
        piece.ends += next_;
        made_.push_back(piece);
        over_ = true;
    }

    void makeRun(const Course& course)
    {
        const Sequence& sequence = course.sound_->sequence;
        Piece piece = course.pieceOf(serial(count_), files_[picker_->next()]);
        const double length = std::max(std::round(course.lengthOf(piece.file) / piece.rate), 1.0);
        piece.begins = next_;
        piece.ends = next_ + length;
        piece.fadeIn = std::max(piece.fadeIn, crossFade_);
        const bool gapTaken = sequence.gapMost_s > 0.0 && course.draw("gap taken", count_) < sequence.gapChance;
        // Half of each piece at most belongs to either of its neighbours.
        crossFade_ = gapTaken ? 0.0 : std::floor(std::min(sequence.crossFade_s * course.rate_, length / 2.0));
        piece.fadeOut = std::max(piece.fadeOut, crossFade_);
        next_ = piece.ends + (gapTaken ? gap(course, count_) : -crossFade_);
        made_.push_back(piece);
        over_ = !course.sound_->loop && count_ + 1 >= files_.size();
    }

    void makeSlice(const Course& course)
    {
        const Sequence& sequence = course.sound_->sequence;
        Piece piece = course.pieceOf(serial(count_), files_[picker_->next()]);
        const double whole = course.lengthOf(piece.file) / piece.rate;
        double length = course.rate_ * between(sequence.sliceLeast_s, sequence.sliceMost_s, course.draw("slice", piece.serial));
        if (count_ == 0 && number_ > 0) {
            // So that the strands do not change over together.
            length *= course.draw("first slice", piece.serial);
        }
        length = std::max(std::round(std::min(length, whole)), 1.0);
        piece.begins = next_;
        piece.ends = next_ + length;
        piece.from =
            std::floor(std::max(course.lengthOf(piece.file) - length * piece.rate, 0.0) * course.draw("from", piece.serial));
        const double fade = std::floor(std::min(std::max(sequence.crossFade_s, cutFade_s) * course.rate_, length / 2.0));
        piece.fadeIn = std::max(piece.fadeIn, fade);
        piece.fadeOut = std::max(piece.fadeOut, fade);
        const bool gapTaken = sequence.gapMost_s > 0.0 && course.draw("gap taken", piece.serial) < sequence.gapChance;
        next_ = gapTaken ? piece.ends + gap(course, count_) : piece.ends - fade;
        made_.push_back(piece);
        over_ = !course.sound_->loop && next_ >= course.lengthOf(piece.file);
    }

    void makeAccent(const Course& course)
    {
        Piece piece = course.pieceOf(serial(count_), files_[picker_->next()]);
        piece.begins = next_;
        piece.ends = next_ + std::max(std::round(course.lengthOf(piece.file) / piece.rate), 1.0);
        next_ = piece.ends + gap(course, count_ + 1);
        made_.push_back(piece);
        over_ = !course.sound_->loop && count_ + 1 >= files_.size();
    }

    Kind kind_;
    std::uint64_t number_;
    std::vector<std::size_t> files_;
    std::optional<Picker> picker_;
    std::deque<Piece> made_;
    double forgottenUntil_ = 0.0;
    double next_ = 0.0; ///< when the next piece begins
    double crossFade_ = 0.0;
    std::uint64_t count_ = 0;
    bool started_ = false;
    bool over_ = false;
};

Course::Course(std::shared_ptr<const Sound> sound, std::vector<double> frames, double rate, std::uint64_t seed, std::string id,
               std::optional<std::size_t> file)
    : sound_(std::move(sound)), frames_(std::move(frames)), rate_(rate), seed_(seed), id_(std::move(id)), file_(file)
{
    std::vector<std::size_t> loops;
    std::vector<std::size_t> accents;
    for (std::size_t i = 0; i < frames_.size(); ++i) {
        const bool picked = !file_ || sound_->make != Make::one || *file_ == i;
        if (frames_[i] > 0.0 && picked) {
            (sound_->make == Make::mixed && sound_->files[i].accent ? accents : loops).push_back(i);
        }
    }
    const auto add = [this](Strand::Kind kind, std::vector<std::size_t> files) {
        if (!files.empty()) {
            strands_.emplace_back(kind, strands_.size(), std::move(files));
        }
    };
    switch (sound_->make) {
    case Make::one: add(Strand::Kind::fixed, loops); break;
    case Make::run: add(Strand::Kind::run, loops); break;
    case Make::slices:
        for (int i = 0; i < sound_->sequence.atOnce; ++i) {
            add(Strand::Kind::slices, loops);
        }
        break;
    case Make::layers:
    case Make::mixed:
        for (const std::size_t loop : loops) {
            add(Strand::Kind::fixed, {loop});
        }
        add(Strand::Kind::accents, accents);
        break;
    }
}

Course::~Course() = default;
Course::Course(Course&&) noexcept = default;
Course& Course::operator=(Course&&) noexcept = default;

double Course::draw(const char* purpose, std::uint64_t counter) const
{
    return chance(seed_, id_, purpose, counter);
}

Course::LoopFrames Course::loopOf(std::size_t file) const
{
    const double set = std::round(sound_->files[file].loopTo_s * rate_);
    const double end = set > 0.0 ? std::min(set, frames_[file]) : frames_[file];
    const double from = std::round(sound_->files[file].loopFrom_s * rate_);
    // A loop that would begin after its end begins at the file's start: it is heard, and is a finding.
    return {from < end ? from : 0.0, end};
}

Piece Course::pieceOf(std::uint64_t serial, std::size_t file) const
{
    Piece piece;
    piece.serial = serial;
    piece.file = static_cast<std::uint32_t>(file);
    // The level of a sound's only piece is known to the hearing model.
    piece.level_db = sound_->make == Make::one ? 0.0 : sound_->files[file].level_db;
    if (sound_->drawsEachPiece()) {
        piece.level_db += sound_->levelSpread_db * (2.0 * draw("level", serial) - 1.0);
        piece.rate = std::exp2(sound_->pitchSpread_st * (2.0 * draw("pitch", serial) - 1.0) / 12.0);
    }
    piece.fadeIn = std::round(sound_->fadeIn_s * rate_);
    piece.fadeOut = std::round(sound_->fadeOut_s * rate_);
    return piece;
}

Piece Course::wholeFile(std::uint64_t serial, std::size_t file) const
{
    Piece piece = pieceOf(serial, file);
    piece.loops = sound_->loop;
    if (piece.loops) {
        piece.ends = boundless;
        piece.from = sound_->copiesApart ? std::floor(draw("start", serial) * loopOf(file).end) : 0.0;
    } else {
        piece.ends = std::max(std::round(lengthOf(file) / piece.rate), 1.0);
    }
    return piece;
}

void Course::during(double from, double to, std::vector<Piece>& pieces)
{
    pieces.clear();
    for (Strand& strand : strands_) {
        strand.during(*this, from, to, pieces);
    }
}

double Course::frames()
{
    double last = 0.0;
    for (Strand& strand : strands_) {
        last = std::max(last, strand.frames(*this));
    }
    return last;
}

/// -1 to 1 at a time in seconds.
double Course::drifted(const Drift& drift, const char* purpose, std::uint32_t file, double time) const
{
    const double periods = time / rate_ / drift.period_s;
    if (!drift.irregular) {
        return std::sin(2.0 * std::numbers::pi * periods);
    }
    return wander(periods, [&](std::uint64_t number) {
        return 2.0 * draw(purpose, (static_cast<std::uint64_t>(file) << strandShift) | number) - 1.0;
    });
}

double Course::placeAt(const Piece& piece, double time) const
{
    const double since = time - piece.begins;
    const double place = piece.from + (piece.rate == 1.0 ? since : since * piece.rate);
    const Drift& drift = sound_->files[piece.file].pitchDrift;
    if (drift.depth <= 0.0 || !piece.loops) {
        return place;
    }
    // The place itself wanders, so that it is known without adding up everything before; the largest slope of the
    // wandering is what the depth allows: 2 pi of a sine's period, 3 of a cubic step from -1 to 1.
    const double steepest = drift.irregular ? 3.0 : 2.0 * std::numbers::pi;
    const double swing = (std::exp2(drift.depth / 12.0) - 1.0) * drift.period_s * rate_ / steepest;
    return place + swing * (drifted(drift, "pitch drift", piece.file, since) - drifted(drift, "pitch drift", piece.file, 0.0));
}

double Course::foldedPlaceAt(const Piece& piece, double time) const
{
    const double place = placeAt(piece, time);
    const LoopFrames loop = loopOf(piece.file);
    if (!piece.loops || place < loop.end) {
        return place;
    }
    return loop.from + std::fmod(place - loop.from, loop.end - loop.from);
}

double Course::levelAt(const Piece& piece, double time) const
{
    const double since = time - piece.begins;
    double level_db = piece.level_db;
    const Drift& drift = sound_->files[piece.file].levelDrift;
    if (!drift.drawn.empty() && piece.loops) {
        level_db += curveAt(drift.drawn, std::fmod(since / rate_, drift.period_s), CurveScale::even, 0.0);
    } else if (drift.depth > 0.0 && piece.loops) {
        level_db += drift.depth * drifted(drift, "level drift", piece.file, since);
    }
    return level_db;
}

LaneValues Course::lanesAt(const Piece& piece, double time) const
{
    LaneValues values;
    for (const Lane& lane : sound_->lanes) {
        if (lane.on) {
            values.add(lane.property, laneAt(lane, std::max(time - piece.begins, 0.0) / rate_));
        }
    }
    return values;
}

std::optional<double> repeatsAfter_s(std::span<const double> frames, double rate)
{
    std::uint64_t together = 1;
    for (const double length : frames) {
        together = std::lcm(together, static_cast<std::uint64_t>(length));
        if (static_cast<double>(together) > day_s * rate) {
            return {};
        }
    }
    return static_cast<double>(together) / rate;
}

} // namespace stone
