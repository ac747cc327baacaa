#pragma once

#include <stdexcept>

namespace stone
{

/// A file that could not be read or written. what() is one line: which file, where in it, what is wrong, what to do.
class FileError : public std::runtime_error
{
public:
    using std::runtime_error::runtime_error;
};

} // namespace stone
