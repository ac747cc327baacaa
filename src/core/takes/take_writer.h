// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <string_view>

namespace stone
{

/// Writes a take: one SQLite file; docs/take-format.md says what is in it. Whatever has been written is there if the program
/// ends in the middle, up to the last few seconds. One thread at a time. Throws FileError.
class TakeWriter
{
public:
    /// Replaces a take of that name, and nothing else: neither another file nor a device.
    TakeWriter(const std::filesystem::path& file, const TakeInfo& info);
    ~TakeWriter();
    TakeWriter(const TakeWriter&) = delete;
    TakeWriter& operator=(const TakeWriter&) = delete;

    // What things are called. Numbers count from 0 in the order in which they are added.
    void addEmitter(const TakeEmitter& emitter);
    void addCopy(const TakeCopy& copy);
    void addRoom(const std::string& id, const std::string& name);
    void addValue(const std::string& id, const std::string& name);
    /// The document from a time on, as its text, and what was done to it in the history's words.
    void addDocument(double t_s, const std::string& words, std::string_view text);

    void add(const TakeEvent& event);
    void add(const TakenCost& cost);
    void add(const TakenMasking& masking);
    /// Moments of one stretch of time: see MomentEncoder.
    void addMoments(double from_s, double to_s, std::string_view chunk);
    void addBins(double from_s, std::span<const TakeBin> bins);
    /// A stretch of the sound, as it is in a FLAC file. `frame`: since the take's beginning.
    void addSound(std::uint64_t frame, std::uint64_t frames, std::string_view flac);

    /// What has been added so far is on the disk from now on.
    void commit();
    /// Says how long and how loud it became, and commits.
    void finish(double seconds, double integrated_lufs, double truePeak_db);

private:
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace stone
