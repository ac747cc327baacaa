// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "takes/take.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace stone
{

/// What is true of a whole take, without opening the rest. Throws FileError as Take does.
TakeInfo readTakeInfo(const std::filesystem::path& file);

/// A take that has been recorded, or is being. Needs nothing but its file: neither the project nor its sounds. A file that is
/// torn is read as far as it goes. Any thread; one question at a time.
class Take
{
public:
    /// Throws FileError when it is no take, of a later version, or cannot be read at all.
    explicit Take(const std::filesystem::path& file);
    ~Take();
    Take(const Take&) = delete;
    Take& operator=(const Take&) = delete;

    const std::filesystem::path& path() const { return path_; }
    const TakeInfo& info() const { return info_; }
    const std::vector<TakeEmitter>& emitters() const { return emitters_; }
    const std::vector<TakeCopy>& copies() const { return copies_; }
    struct Named {
        std::string id;
        std::string name;
    };
    const std::vector<Named>& rooms() const { return rooms_; }
    const std::vector<Named>& values() const { return values_; }
    const std::vector<TakeEvent>& events() const { return events_; }
    /// The documents that it went through: from when on, and by what.
    struct DocumentFrom {
        double t_s = 0.0;
        std::string words;
    };
    const std::vector<DocumentFrom>& documents() const { return documents_; }
    /// One of them, as its text. Throws FileError.
    std::string documentText(std::size_t document) const;
    /// What is wrong with the file, in one line; empty: nothing is.
    const std::string& damage() const { return damage_; }

    double seconds() const { return info_.seconds; }

    /// All of it, coarsely.
    std::vector<TakeBin> overview() const;
    /// The moments of a stretch of time.
    std::vector<TakenMoment> moments(double from_s, double to_s) const;
    /// Goes through all moments in order; `each` returns false to stop.
    void eachMoment(const std::function<bool(const TakenMoment&)>& each) const;
    /// The last moment that is not after a time; nothing where there is none.
    std::optional<TakenMoment> momentAt(double t_s) const;
    std::vector<TakenCost> costs() const;
    /// Who could not be made out, and when.
    const std::vector<TakenMasking>& masked() const { return masked_; }

    /// Whether its sound was kept.
    bool hasSound() const { return info_.channels > 0; }
    /// Frames of its sound from one on, interleaved, as many as there are; fewer at the end.
    std::vector<float> sound(std::uint64_t frame, std::uint64_t frames) const;
    std::uint64_t soundFrames() const;

private:
    struct State;

    void readAll();
    template <class Each> void eachRow(const char* sql, Each&& each);
    const std::vector<TakenMoment>& chunkAt(std::size_t chunk) const;

    std::filesystem::path path_;
    TakeInfo info_;
    std::vector<TakeEmitter> emitters_;
    std::vector<TakeCopy> copies_;
    std::vector<Named> rooms_;
    std::vector<Named> values_;
    std::vector<TakeEvent> events_;
    std::vector<DocumentFrom> documents_;
    std::vector<TakenMasking> masked_;
    std::string damage_;
    std::unique_ptr<State> state_;
};

} // namespace stone
