#include "project/atomic_file.h"

#include "project/file_error.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
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

[[noreturn]] void failWriting(const std::filesystem::path& path)
{
    throw FileError(path.string() + ": cannot be written (" + std::strerror(errno) +
                    "); the file is as it was, choose another place or make room");
}

} // namespace

void writeAtomically(const std::filesystem::path& path, std::string_view bytes)
{
    const std::filesystem::path folder = path.has_parent_path() ? path.parent_path() : std::filesystem::path(".");
    std::string temporary = (folder / ("." + path.filename().string() + ".XXXXXX")).string();
    const Descriptor file(::mkstemp(temporary.data()));
    if (file.get() < 0) {
        failWriting(path);
    }
    const auto giveUp = [&] {
        const int why = errno;
        ::unlink(temporary.c_str());
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
    // mkstemp makes files for the owner only; a document keeps the rights it had, or is as readable as most files are.
    struct stat before {
    };
    const mode_t rights = ::stat(path.c_str(), &before) == 0 ? before.st_mode & 07777U : 0644;
    if (::fchmod(file.get(), rights) != 0 || ::fsync(file.get()) != 0 || ::rename(temporary.c_str(), path.c_str()) != 0) {
        giveUp();
    }
    const Descriptor place(::open(folder.c_str(), O_RDONLY | O_DIRECTORY));
    if (place.get() >= 0) {
        ::fsync(place.get());
    }
}

} // namespace stone
