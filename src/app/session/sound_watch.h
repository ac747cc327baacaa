// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QFileSystemWatcher>
#include <QObject>
#include <QTimer>

#include <filesystem>
#include <map>
#include <set>
#include <string>

namespace stone
{

/// Looks after the files of a project's sounds on the disk: says which have become others there, or where they were copied
/// from, once they have been left alone for a moment; and keeps what was in each, so that one that is missing later is known
/// again whatever it is called. Window thread only.
class SoundWatch : public QObject
{
    Q_OBJECT

public:
    /// `records`: a folder in which what was in the files is kept from one run to the next; empty: nowhere.
    explicit SoundWatch(std::filesystem::path records, QObject* parent = nullptr);

    /// Another document is open, empty: one that was not saved yet. Forgets all of the one before.
    void setDocument(const std::filesystem::path& document);
    /// The files of its sounds, by their names in the document.
    void watch(const std::map<std::string, std::filesystem::path>& files);
    /// A file of the document is a copy of one that a person picked.
    void copiedFrom(const std::string& file, const std::filesystem::path& source);
    /// Where it was copied from since the document was opened; empty: not known.
    std::filesystem::path sourceOf(const std::string& file) const;

    /// What is in a file; see contentOf().
    void know(const std::string& file, const std::string& content);
    /// What was in it when it was read last; empty: not known.
    std::string knownContent(const std::string& file) const;

signals:
    /// A file of the document is another one now.
    void changed(const std::string& file);
    /// The one that it was copied from is.
    void sourceChanged(const std::string& file);

private:
    struct Watched {
        std::filesystem::path path;
        std::string stamp; ///< size and time when it was looked at last
        bool source = false;
    };

    void rewatch();
    void settle();
    void add(const std::string& file, const std::filesystem::path& path, bool source);
    std::filesystem::path recordOf(const std::filesystem::path& document) const;
    void keep();

    std::filesystem::path records_;
    std::filesystem::path document_;
    QFileSystemWatcher watcher_;
    QTimer quiet_;
    QTimer keepSoon_;
    std::map<std::pair<std::string, bool>, Watched> watched_; ///< by file, and whether it is where that came from
    std::map<std::string, std::filesystem::path> sources_;
    std::map<std::string, std::string> contents_;
};

} // namespace stone
