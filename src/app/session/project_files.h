#pragma once

#include <filesystem>
#include <map>
#include <set>
#include <string>

namespace stone
{

/// Where the files that a document names lie on the disk, and how files that a person picks elsewhere come into its folder.
/// Belongs to the window's thread.
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

    /// Copies a file into the folder where it is not there yet, and gives the text for the document. Before there is a
    /// folder the file stays where it is. Throws filesystem_error.
    std::string takeIn(const std::filesystem::path& file, const std::string& subfolder);

    /// Copies what the document names to where another one will lie, and gives the text for that. What cannot be copied
    /// keeps its text.
    std::string bring(const std::string& file, const std::string& subfolder, const std::filesystem::path& target) const;

private:
    std::filesystem::path document_;
    std::set<std::string> handPicked_;                              ///< absolute paths that a person chose
    mutable std::map<std::string, std::filesystem::path> resolved_; ///< asking the disk for every look would be slow
};

} // namespace stone
