// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/session.h"
#include "level/level_files.h"
#include "project/read.h"
#include "project/write.h"

#include <algorithm>

/// The session's document on the disk: opened, saved, changed by others, brought back.
namespace stone
{

void Session::startNew()
{
    adopt(std::make_shared<const Project>(blankProject()), {}, {});
}

void Session::open(const std::filesystem::path& path)
{
    const std::filesystem::path document = std::filesystem::absolute(documentPath(path));
    ReadProject read = readProjectFile(document);
    adopt(std::make_shared<const Project>(std::move(read.project)), document, std::move(read.notices));
}

void Session::saveAs(const std::filesystem::path& path)
{
    lookAt({});
    std::filesystem::path document = std::filesystem::absolute(path);
    if (document.extension() != ".json" && document.extension() != documentEnding) {
        // Where there is a document already it is that one's place.
        const std::filesystem::path known = documentPath(document);
        document = known != document && std::filesystem::exists(known)
                       ? known
                       : document / (document.filename().string() + documentEnding);
    }
    const std::filesystem::path target = document.parent_path();
    std::error_code error;
    if (document == path_ && !std::filesystem::is_directory(target, error)) {
        throw FileError(target.string() + ": the project's folder is gone, with its sounds. Bring it back and save again, or " +
                        "choose Save as to put the document elsewhere");
    }
    std::filesystem::create_directories(target, error);
    if (error) {
        throw FileError(document.string() + ": its folder cannot be made (" + error.message() + "); choose another place");
    }
    Project next;
    try {
        next = broughtTo(target);
    } catch (const std::filesystem::filesystem_error& failure) {
        throw FileError(failure.path1().string() + ": cannot be copied into the project (" + failure.code().message() +
                        "); nothing was saved, make room or check the rights of its folder");
    }
    // A project that was never called anything is called like the folder it is put into.
    if (path_.empty() && next.name == blankProject().name && !target.filename().empty()) {
        next.name = target.filename().string();
    }
    writeProjectFile(next, document);
    path_ = document;
    files_.move(document);
    watchAnew(document);
    history_.commit(std::move(next), "Bring files into the project");
    history_.markSaved();
    common_ = this->document();
    keepSave(state_, path_);
    afterChange();
}

Project Session::broughtTo(const std::filesystem::path& target) const
{
    Project next = project();
    const auto bring = [&](std::string& file, const char* subfolder, bool level) {
        const std::filesystem::path source = level ? resolve(file) : std::filesystem::path{};
        file = files_.bring(file, subfolder, target, source.empty() ? std::vector<std::string>{} : filesBeside(source));
    };
    for (const auto& sound : project().sounds) {
        Sound moved = *sound;
        for (SoundFile& file : moved.files) {
            bring(file.file, "sounds", false);
        }
        if (!(moved == *sound)) {
            next.sounds.put(std::move(moved));
        }
    }
    for (const auto& level : project().levels) {
        Level moved = *level;
        if (auto* file = std::get_if<GeometryFile>(&moved.geometry)) {
            bring(file->file, "level", true);
        } else if (auto* picture = std::get_if<GeometryPicture>(&moved.geometry)) {
            bring(picture->file, "level", false);
        }
        for (const auto& room : level->rooms) {
            Room answering = *room;
            bring(answering.reverb.response, "responses", false);
            if (!(answering == *room)) {
                moved.rooms.put(std::move(answering));
            }
        }
        if (!(moved == *level)) {
            next.levels.put(std::move(moved));
        }
    }
    return next;
}

std::optional<Project> Session::changedOnDisk() const
{
    std::error_code error;
    if (path_.empty() || !std::filesystem::is_regular_file(path_, error)) {
        return {};
    }
    Project onDisk = readProjectFile(path_).project;
    return onDisk == *common_ ? std::nullopt : std::optional(std::move(onDisk));
}

void Session::bringBack(const LeftBehind& left)
{
    std::error_code error;
    if (!left.document.empty() && std::filesystem::exists(left.document, error)) {
        open(left.document);
    } else {
        startNew();
    }
    edit(*left.project, tr("Bring back what was not saved"));
    flushJournal(); // it is in this window's journal before the other one goes
    forget(left);
}

void Session::takeEarlierSave(const KeptSave& save, const QString& when)
{
    edit(readProjectFile(save.file).project, tr("Back to the save of %1").arg(when));
}

/// What is not saved goes to the journal; what is saved leaves it.
void Session::keepJournal()
{
    if (changed()) {
        journal_.note(path_, history_.current(), history_.undoName());
    } else {
        journal_.clear();
    }
}

} // namespace stone
