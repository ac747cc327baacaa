// SPDX-License-Identifier: MPL-2.0
#include "project/journal.h"

#include "project/atomic_file.h"
#include "project/file_error.h"
#include "project/read.h"
#include "project/write.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cstdlib>
#include <fcntl.h>
#include <fstream>
#include <functional>
#include <iterator>
#include <sys/file.h>
#include <unistd.h>

namespace stone
{

namespace
{

constexpr auto soon = std::chrono::milliseconds(400);
/// What could not be written is tried so often.
constexpr auto again = std::chrono::seconds(2);
/// A line of JSON about the entry, and after it the document: one file, as they belong together.
const char* const entryName = "unsaved";
const char* const lockName = "lock";

std::filesystem::path openFolder(const std::filesystem::path& state)
{
    return state / "open";
}

/// A folder for a document's saves: its name for people, a number for its place.
std::filesystem::path savesFolder(const std::filesystem::path& state, const std::filesystem::path& document)
{
    const std::size_t place = std::hash<std::string>{}(document.string());
    return state / "saves" / (slug(document.parent_path().filename().string()) + '-' + std::to_string(place));
}

/// Held for as long as the process lives, whatever becomes of it; -1: somebody else has it.
int lockedFile(const std::filesystem::path& file)
{
    const int fd = ::open(file.c_str(), O_RDWR | O_CREAT | O_CLOEXEC, 0600);
    if (fd >= 0 && ::flock(fd, LOCK_EX | LOCK_NB) != 0) {
        ::close(fd);
        return -1;
    }
    return fd;
}

/// While one window makes its folder no other looks for what was left behind, and the other way round: a folder that is not
/// locked yet would be taken for one whose window is gone.
class Guard
{
public:
    explicit Guard(const std::filesystem::path& folder) : fd_(::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC))
    {
        while (fd_ >= 0 && ::flock(fd_, LOCK_EX) != 0 && errno == EINTR) {
        }
    }
    ~Guard()
    {
        if (fd_ >= 0) {
            ::close(fd_);
        }
    }
    Guard(const Guard&) = delete;
    Guard& operator=(const Guard&) = delete;

private:
    int fd_;
};

} // namespace

std::filesystem::path stateFolder()
{
    if (const char* state = std::getenv("XDG_STATE_HOME"); state != nullptr && *state == '/') {
        return std::filesystem::path(state) / "stone-echo";
    }
    const char* home = std::getenv("HOME");
    return home != nullptr && *home == '/' ? std::filesystem::path(home) / ".local/state/stone-echo" : std::filesystem::path();
}

Journal::Journal(std::filesystem::path state) : state_(std::move(state)), worker_([this] { work(); })
{
}

Journal::~Journal()
{
    clear();
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    worker_.join();
    if (lock_ >= 0) {
        std::error_code ignored;
        std::filesystem::remove_all(mine_, ignored);
        ::close(lock_);
    }
}

void Journal::note(const std::filesystem::path& document, std::shared_ptr<const Project> project, const std::string& lastStep)
{
    const std::lock_guard lock(mutex_);
    entry_ = {document, std::move(project), lastStep};
    changed_ = true;
    wake_.notify_all();
}

void Journal::clear()
{
    note({}, nullptr, {});
}

void Journal::flush()
{
    std::unique_lock lock(mutex_);
    hurry_ = true;
    wake_.notify_all();
    written_.wait(lock, [this] { return !changed_; });
    hurry_ = false;
}

std::string Journal::trouble() const
{
    const std::lock_guard lock(mutex_);
    return trouble_;
}

void Journal::onTrouble(std::function<void(const std::string& trouble)> changed)
{
    const std::lock_guard lock(mutex_);
    troubleChanged_ = std::move(changed);
}

void Journal::work()
{
    std::unique_lock lock(mutex_);
    for (;;) {
        const auto called = [this] { return stop_ || changed_; };
        if (trouble_.empty()) {
            wake_.wait(lock, called);
        } else if (!wake_.wait_for(lock, again, called)) {
            changed_ = true; // the disk may have room again
        }
        // A drag changes the document sixty times a second: only where it has got to is of interest.
        wake_.wait_for(lock, soon, [this] { return stop_ || hurry_; });
        if (changed_) {
            const Entry entry = entry_;
            lock.unlock();
            std::string trouble;
            try {
                write(entry);
            } catch (const std::exception& error) {
                trouble = error.what();
            }
            lock.lock();
            if (trouble_ != trouble) {
                trouble_ = trouble;
                if (troubleChanged_) {
                    troubleChanged_(trouble);
                }
            }
            changed_ = changed_ && entry_.project != entry.project;
            written_.notify_all();
        }
        if (stop_ && !changed_) {
            return;
        }
    }
}

void Journal::write(const Entry& entry)
{
    if (state_.empty()) {
        return;
    }
    if (entry.project == nullptr) {
        std::error_code ignored;
        if (lock_ >= 0) {
            std::filesystem::remove(mine_ / entryName, ignored);
        }
        return;
    }
    if (lock_ < 0) {
        std::error_code error;
        std::filesystem::create_directories(openFolder(state_), error);
        if (error) {
            throw FileError(openFolder(state_).string() + ": cannot be made, " + error.message());
        }
        std::filesystem::permissions(state_, std::filesystem::perms::owner_all, error);
        const Guard guard(openFolder(state_));
        std::string own = (openFolder(state_) / "window-XXXXXX").string();
        if (::mkdtemp(own.data()) == nullptr) {
            throw FileError(own + ": cannot be made");
        }
        mine_ = own;
        lock_ = lockedFile(mine_ / lockName);
        if (lock_ < 0) {
            throw FileError(own + ": cannot be locked");
        }
    }
    const nlohmann::json about{{"document", entry.document.string()}, {"last_step", entry.lastStep}};
    writeAtomically(mine_ / entryName,
                    about.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace) + '\n' + projectText(*entry.project));
}

std::vector<LeftBehind> leftBehind(const std::filesystem::path& state)
{
    std::vector<LeftBehind> all;
    std::error_code error;
    if (state.empty()) {
        return all;
    }
    const Guard guard(openFolder(state));
    for (const auto& entry : std::filesystem::directory_iterator(openFolder(state), error)) {
        const int lock = lockedFile(entry.path() / lockName);
        if (lock < 0) {
            continue; // its window is open
        }
        try {
            std::ifstream in(entry.path() / entryName, std::ios::binary);
            std::string line;
            std::getline(in, line);
            const auto about = nlohmann::json::parse(line);
            const std::string text(std::istreambuf_iterator<char>(in), {});
            LeftBehind left;
            left.folder = entry.path();
            left.document = about.value("document", std::string());
            left.lastStep = about.value("last_step", std::string());
            left.when = std::filesystem::last_write_time(entry.path() / entryName);
            left.project = std::make_shared<const Project>(readProjectText(text, entryName).project);
            all.push_back(std::move(left));
        } catch (const std::exception&) {
            // A window that was killed with everything saved, or before its first entry was whole, left nothing of use.
            std::error_code ignored;
            std::filesystem::remove_all(entry.path(), ignored);
        }
        ::close(lock);
    }
    std::sort(all.begin(), all.end(), [](const LeftBehind& a, const LeftBehind& b) { return a.when > b.when; });
    return all;
}

void forget(const LeftBehind& left)
{
    std::error_code ignored;
    std::filesystem::remove_all(left.folder, ignored);
}

void keepSave(const std::filesystem::path& state, const std::filesystem::path& document)
{
    if (state.empty()) {
        return;
    }
    const std::filesystem::path folder = savesFolder(state, document);
    std::error_code error;
    std::filesystem::create_directories(folder, error);
    const auto now = std::chrono::system_clock::now().time_since_epoch();
    const auto stamp = std::to_string(std::chrono::duration_cast<std::chrono::milliseconds>(now).count());
    std::filesystem::copy_file(document, folder / (stamp + ".json"), std::filesystem::copy_options::overwrite_existing, error);
    std::vector<KeptSave> kept = keptSaves(state, document);
    for (std::size_t i = savesKept; i < kept.size(); ++i) {
        std::filesystem::remove(kept[i].file, error);
    }
}

std::vector<KeptSave> keptSaves(const std::filesystem::path& state, const std::filesystem::path& document)
{
    std::vector<KeptSave> kept;
    std::error_code error;
    if (state.empty()) {
        return kept;
    }
    for (const auto& entry : std::filesystem::directory_iterator(savesFolder(state, document), error)) {
        if (entry.path().extension() == ".json") {
            kept.push_back({entry.path(), entry.last_write_time(error)});
        }
    }
    // Their names are the times at which they were made.
    std::sort(kept.begin(), kept.end(), [](const KeptSave& a, const KeptSave& b) { return a.file > b.file; });
    return kept;
}

} // namespace stone
