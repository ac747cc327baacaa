// SPDX-License-Identifier: MPL-2.0
#include "project/atomic_file.h"

#include "project/file_error.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <iterator>
#include <string>
#include <sys/stat.h>
#include <unistd.h>

namespace stone
{

namespace
{

/// Closes the descriptor whatever happens.
class Descriptor
{
public:
    explicit Descriptor(int fd) : fd_(fd) {}
    ~Descriptor()
    {
        if (fd_ >= 0) {
            ::close(fd_);
        }
    }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    int get() const { return fd_; }

private:
    int fd_;
};

/// A file that has no name yet, so that nothing is left of it should the process be killed; where the file system knows no such
/// files, one under a name of its own.
struct Unfinished {
    int fd = -1;
    std::string name; ///< empty: none yet
};

Unfinished beginBeside(const std::filesystem::path& folder, const std::string& pattern)
{
    Unfinished made{::open(folder.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, 0600), {}};
    if (made.fd < 0) {
        made.name = pattern;
        made.fd = ::mkstemp(made.name.data());
    }
    return made;
}

/// Gives it a name that no file has, from which it can be moved to where it belongs.
bool giveName(Unfinished& file, const std::string& pattern)
{
    constexpr int mostTries = 100;
    const std::string self = "/proc/self/fd/" + std::to_string(file.fd);
    const std::string stem = pattern.substr(0, pattern.size() - 6) + std::to_string(::getpid());
    for (int i = 0; i < mostTries; ++i) {
        const std::string name = stem + '-' + std::to_string(i);
        if (::linkat(AT_FDCWD, self.c_str(), AT_FDCWD, name.c_str(), AT_SYMLINK_FOLLOW) == 0) {
            file.name = name;
            return true;
        }
        if (errno != EEXIST) {
            return false;
        }
    }
    return false;
}

[[noreturn]] void failWriting(const std::filesystem::path& path)
{
    throw FileError(path.string() + ": cannot be written (" + std::strerror(errno) +
                    "); the file is as it was, choose another place or make room");
}

} // namespace

void writeAtomically(const std::filesystem::path& path, std::string_view bytes)
{
    const std::filesystem::path folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    const std::string pattern = (folder / ("." + path.filename().string() + ".XXXXXX")).string();
    Unfinished unfinished = beginBeside(folder, pattern);
    const Descriptor file(unfinished.fd);
    if (file.get() < 0) {
        failWriting(path);
    }
    const auto giveUp = [&] {
        const int why = errno;
        if (!unfinished.name.empty()) {
            ::unlink(unfinished.name.c_str());
        }
        errno = why;
        failWriting(path);
    };
    std::size_t written = 0;
    while (written < bytes.size()) {
        const ssize_t n = ::write(file.get(), bytes.data() + written, bytes.size() - written);
        if (n < 0 && errno != EINTR) {
            giveUp();
        }
        written += n > 0 ? static_cast<std::size_t>(n) : 0;
    }
    // So far it is for the owner only; a document keeps the rights it had, or is as readable as most files are.
    struct stat before {
    };
    const mode_t rights = ::stat(path.c_str(), &before) == 0 ? before.st_mode & 07777U : 0644;
    if (::fchmod(file.get(), rights) != 0 || ::fsync(file.get()) != 0) {
        giveUp();
    }
    if ((unfinished.name.empty() && !giveName(unfinished, pattern)) || ::rename(unfinished.name.c_str(), path.c_str()) != 0) {
        giveUp();
    }
    const Descriptor place(::open(folder.c_str(), O_RDONLY | O_DIRECTORY));
    if (place.get() >= 0) {
        ::fsync(place.get());
    }
}

std::string fileText(const std::filesystem::path& file)
{
    std::ifstream stream(file, std::ios::binary);
    return {std::istreambuf_iterator<char>(stream), {}};
}

} // namespace stone
