// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "project/document.h"

#include <condition_variable>
#include <cstddef>
#include <filesystem>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

/// What the program keeps for itself in the user's state folder, never in a project's: what is not saved yet, for the case that
/// the program ends before it is, and the last saves.
namespace stone
{

/// $XDG_STATE_HOME/stone-echo, else ~/.local/state/stone-echo; empty where there is no home.
std::filesystem::path stateFolder();

/// What of one running window is not saved yet. Each change is on the disk within half a second, written by a thread of the
/// journal's own, always whole and only the newest, so that its size is that of a document. A clean end takes it away; what
/// a killed process leaves is found by leftBehind(). Window thread, but for what it says.
class Journal
{
public:
    /// `state`: see stateFolder(); made when something is written. Empty: nothing is kept.
    explicit Journal(std::filesystem::path state);
    ~Journal();
    Journal(const Journal&) = delete;
    Journal& operator=(const Journal&) = delete;

    /// The document is this now, and not saved. `document`: where it lies; empty: it was never saved. `lastStep`: what was
    /// done last, in undo's words.
    void note(const std::filesystem::path& document, std::shared_ptr<const Project> project, const std::string& lastStep);
    /// Nothing is left to save.
    void clear();

    /// Waits until what was noted is on the disk.
    void flush();
    /// Why the last one could not be written, which is tried again every two seconds; empty: it could. Any thread.
    std::string trouble() const;
    /// Called on the journal's thread whenever trouble() has become another; must not call the journal. Any thread.
    void onTrouble(std::function<void(const std::string& trouble)> changed);

private:
    struct Entry {
        std::filesystem::path document;
        std::shared_ptr<const Project> project; ///< null: nothing to save
        std::string lastStep;
    };

    void work();
    void write(const Entry& entry);

    const std::filesystem::path state_;
    std::filesystem::path mine_; ///< this window's folder, once there is one
    int lock_ = -1;
    mutable std::mutex mutex_;
    std::function<void(const std::string&)> troubleChanged_;
    std::condition_variable wake_;
    std::condition_variable written_;
    Entry entry_;
    bool changed_ = false;
    bool hurry_ = false;
    bool stop_ = false;
    std::string trouble_;
    std::thread worker_;
};

/// What a window that was killed had not saved.
struct LeftBehind {
    std::filesystem::path folder;   ///< of the journal
    std::filesystem::path document; ///< where the project lies; empty: it was never saved
    std::string lastStep;
    std::filesystem::file_time_type when;
    std::shared_ptr<const Project> project;
};

/// All of it, newest first; what a running window keeps is not left behind. What cannot be read is passed over.
std::vector<LeftBehind> leftBehind(const std::filesystem::path& state);
/// It was brought back, or nobody wants it.
void forget(const LeftBehind& left);

constexpr std::size_t savesKept = 10;

/// A save of a document that was kept.
struct KeptSave {
    std::filesystem::path file;
    std::filesystem::file_time_type when;
};

/// Keeps a copy of what was just saved, and of the saves before it the last ones. Quietly does nothing where it cannot.
void keepSave(const std::filesystem::path& state, const std::filesystem::path& document);
/// Newest first.
std::vector<KeptSave> keptSaves(const std::filesystem::path& state, const std::filesystem::path& document);

} // namespace stone
