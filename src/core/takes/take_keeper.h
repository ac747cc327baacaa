// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "dsp/loudness_meter.h"
#include "takes/masking_watch.h"
#include "takes/moment_codec.h"
#include "takes/take.h"
#include "takes/take_writer.h"

#include <cstdint>
#include <deque>
#include <limits>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <variant>
#include <vector>

namespace stone
{

// What comes to a take while it is recorded, besides its moments, events and costs.
struct SoundCome {
    double t_s = 0.0; ///< of the first frame; below 0: before the take began
    std::vector<float> frames{};
};
struct DocumentCome {
    double t_s;
    std::string words;
    std::shared_ptr<const Project> document;
};
struct RoomCome {
    std::string id;
    std::string name;
};
struct ValueCome {
    std::string id;
    std::string name;
};
/// A sound of the take's, with its files as far as they are there.
struct FilesCome {
    SoundId sound;
    std::vector<SharedBuffer> files;
};
using Come = std::variant<TakenMoment, SoundCome, TakeEvent, TakenCost, DocumentCome, TakeEmitter, TakeCopy, RoomCome,
                          ValueCome, FilesCome, BandsHeard>;

/// Puts what has come into a take's file: measures the sound, gives each moment the loudness of its time, sums up. One thread.
class TakeKeeper
{
public:
    /// `info`: of what comes.
    TakeKeeper(TakeWriter& writer, const TakeInfo& info, bool keepsSound);

    void take(TakenMoment&& moment) { waiting_.push_back(std::move(moment)); }
    void take(SoundCome&& sound);
    void take(TakeEvent&& event) { writer_.add(event); }
    void take(TakenCost&& cost) { writer_.add(cost); }
    void take(DocumentCome&& come);
    void take(TakeEmitter&& emitter) { writer_.addEmitter(emitter); }
    void take(TakeCopy&& copy);
    void take(FilesCome&& come);
    void take(BandsHeard&& heard);
    void take(RoomCome&& room) { writer_.addRoom(room.id, room.name); }
    void take(ValueCome&& value) { writer_.addValue(value.id, value.name); }
    /// Nothing more comes: puts down the rest.
    void finish();

private:
    void hear(std::span<const float> frames);
    void settle(double time_s);
    void keep(const TakenMoment& moment);
    void addToBin(const TakenMoment& moment);
    void closeBin();
    void flush();

    TakeWriter& writer_;
    const TakeInfo& info_;
    bool keepsSound_;
    LoudnessMeter meter_;
    std::deque<TakenMoment> waiting_;
    MomentEncoder encoder_;
    double chunkFrom_s_ = 0.0;
    double seconds_ = 0.0;
    double nextShortTerm_s_ = 0.0;
    double shortTerm_lufs_ = -std::numeric_limits<double>::infinity();
    float peak_ = 0.0F;
    std::uint64_t heard_ = 0; ///< frames of the take's sound so far
    std::uint64_t frame_ = 0; ///< of which so many are in the file
    std::vector<float> frames_;
    std::vector<std::uint32_t> copyEmitters_;
    std::vector<SoundId> copySounds_;
    std::map<SoundId, Bands> soundLevels_; ///< by octave band
    MaskingWatch masking_;
    TakeBin bin_;
    std::int64_t binNumber_ = -1;
    int binMoments_ = 0;
    std::map<std::uint32_t, std::pair<double, double>> binPowers_; ///< sum, most; by emitter
    std::vector<TakeBin> bins_;
};

} // namespace stone
