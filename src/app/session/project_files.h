// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace stone
{

/// Where the files that a document names lie on the disk, and how files that a person picks elsewhere come into its folder.
/// What a document says is never enough to read or copy anything from outside its folder, or to write there: only files picked
/// by hand since it was opened are. Belongs to the window's thread.
class ProjectFiles
{
public:
    /// The document's path, empty until it is saved. What was picked for another document is forgotten.
    void setDocument(const std::filesystem::path& document);
    /// The same document lies elsewhere now.
    void move(const std::filesystem::path& document);
    std::filesystem::path folder() const { return document_.parent_path(); }

    /// Empty for files that are not to be read: they lead outside, or there is no folder yet.
    std::filesystem::path resolve(const std::string& file) const;

    /// A file of the program's own may be read too, under its absolute path.
    void alsoRead(const std::filesystem::path& file) { handPicked_.insert(file.string()); }

    /// Copies a file into the folder where it is not there yet, and gives the text for the document. `beside`: files relative
    /// to it that come along under their own names. Before there is a folder the file stays where it is. Throws FileError and
    /// filesystem_error.
    std::string takeIn(const std::filesystem::path& file, const std::string& subfolder,
                       const std::vector<std::string>& beside = {});

    /// The same for what the document names, into the folder where the document will lie. What may not or cannot be read
    /// keeps its text. Throws FileError where a copy would lie outside that folder, filesystem_error where it cannot be made.
    std::string bring(const std::string& file, const std::string& subfolder, const std::filesystem::path& target,
                      const std::vector<std::string>& beside = {}) const;

private:
    std::filesystem::path document_;
    std::set<std::string> handPicked_;                              ///< absolute paths that a person, or we, chose
    mutable std::map<std::string, std::filesystem::path> resolved_; ///< asking the disk for every look would be slow
};

} // namespace stone
