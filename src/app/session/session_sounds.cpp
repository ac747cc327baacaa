// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session/session.h"
#include "engine/scene.h"
#include "level/level_files.h"
#include "media/fold.h"
#include "project/read.h"

#include <QFileInfo>

#include <algorithm>
#include <map>
#include <set>

/// The session's sounds: brought in, found again, in memory.
namespace stone
{

namespace
{

std::filesystem::path pathOf(const QString& file)
{
    return {file.toStdString()};
}

/// Shorter sounds arrive as one-shots.
constexpr double shortest_s = 2.0;

QString notCopied(const QString& file, const std::filesystem::filesystem_error& error)
{
    return Session::tr("%1 cannot be copied into the project (%2); make room or check the rights of its folder")
        .arg(file, QString::fromStdString(error.code().message()));
}

} // namespace

SoundBank::Entry Session::soundEntry(const Sound& sound, std::size_t file) const
{
    if (file >= sound.files.size()) {
        return {SoundBank::State::failed, {}, sound.name + ": has no file; choose one"};
    }
    const SoundFile& asked = sound.files[file];
    const std::filesystem::path path = resolve(asked.file);
    if (path.empty()) {
        return {SoundBank::State::failed, {}, asked.file + ": cannot be found"};
    }
    return bank_.get(path, isLooped(sound, asked), sound.keeping);
}

QString Session::takeIn(const QString& file, const QString& subfolder)
{
    try {
        const std::string taken = files_.takeIn(pathOf(file), subfolder.toStdString(), filesBeside(pathOf(file)));
        const std::filesystem::path source = std::filesystem::absolute(pathOf(file));
        if (resolve(taken) != source) {
            watch_.copiedFrom(taken, source);
        }
        return QString::fromStdString(taken);
    } catch (const std::filesystem::filesystem_error& error) {
        throw FileError(notCopied(file, error).toStdString());
    }
}

std::vector<SoundId> Session::addSounds(const QStringList& files)
{
    std::vector<SoundId> ids;
    Project next = project();
    for (const QString& file : files) {
        if (!QFileInfo(file).isFile()) {
            emit failed(tr("%1 is not a file; drop sound files or choose them with Add sounds").arg(file));
            continue;
        }
        try {
            Sound sound;
            sound.name = QFileInfo(file).completeBaseName().toStdString();
            sound.id = next.sounds.freshId(sound.name);
            sound.files.push_back({.file = takeIn(file, "sounds").toStdString()});
            // A knock is no loop: what is so short plays once, until somebody says otherwise.
            const double seconds = claimedSeconds(pathOf(file));
            sound.loop = seconds <= 0.0 || seconds >= shortest_s;
            ids.push_back(sound.id);
            next.sounds.put(std::move(sound));
        } catch (const FileError& error) {
            emit failed(error.what());
        }
    }
    if (!ids.empty()) {
        edit(std::move(next), ids.size() == 1 ? tr("Add sound %1").arg(QFileInfo(files.first()).completeBaseName())
                                              : tr("Add %1 sounds").arg(ids.size()));
    }
    return ids;
}

void Session::addFiles(const SoundId& id, const QStringList& files)
{
    std::vector<SoundFile> taken;
    for (const QString& file : files) {
        try {
            taken.push_back({.file = takeIn(file, "sounds").toStdString()});
        } catch (const FileError& error) {
            emit failed(error.what());
        }
    }
    if (taken.empty()) {
        return;
    }
    editSound(id, taken.size() == 1 ? tr("a file more") : tr("%1 files more").arg(taken.size()), {}, [&](Sound& sound) {
        // Variations of which all copies take the same would be no variations.
        sound.copiesApart = sound.copiesApart || sound.files.size() <= 1;
        sound.files.insert(sound.files.end(), taken.begin(), taken.end());
    });
}

void Session::foldSound(const SoundId& id, std::size_t which)
{
    const Sound* sound = project().sounds.find(id);
    if (sound == nullptr || which >= sound->files.size()) {
        return;
    }
    if (path_.empty()) {
        emit failed(tr("Save the project first: the folded copy is put into its folder"));
        return;
    }
    const std::filesystem::path from = resolve(sound->files[which].file);
    std::filesystem::path to = from;
    for (int number = 1; to == from || std::filesystem::exists(to); ++number) {
        to.replace_filename(from.stem().string() + "-mono" + (number > 1 ? std::to_string(number) : std::string()) + ".wav");
    }
    try {
        foldToMono(from, to);
        const std::string inside = takeIn(QString::fromStdString(to.string()), "sounds").toStdString();
        bank_.forget(to);
        editSound(id, tr("folded to mono"), {}, [&](Sound& s) { s.files[which].file = inside; });
    } catch (const FileError& error) {
        emit failed(error.what());
    }
}

void Session::relocateSound(const SoundId& id, std::size_t which, const QString& file)
{
    try {
        const std::string inside = takeIn(file, "sounds").toStdString();
        bank_.forget(resolve(inside));
        editSound(id, tr("relocated"), {}, [&](Sound& sound) {
            if (which <= sound.files.size()) {
                sound.files.resize(std::max(sound.files.size(), which + 1));
                sound.files[which].file = inside;
            }
        });
    } catch (const FileError& error) {
        emit failed(error.what());
    }
}

/// Another document, or the same elsewhere: its files lie at other places.
void Session::watchAnew(const std::filesystem::path& document)
{
    watch_.setDocument(document);
    watchedSounds_ = {};
}

/// Once for a run of edits.
void Session::watchSoon()
{
    if (!untilWatched_.isActive()) {
        untilWatched_.start();
    }
}

/// Who is looked after, and what is in what has been read.
void Session::watchSounds()
{
    watchedSounds_ = history_.current()->sounds;
    std::map<std::string, std::filesystem::path> files;
    for (const auto& sound : watchedSounds_) {
        for (std::size_t i = 0; i < sound->files.size(); ++i) {
            const std::filesystem::path path = resolve(sound->files[i].file);
            if (path.empty()) {
                continue;
            }
            files.emplace(sound->files[i].file, path);
            if (const SoundBank::Entry entry = soundEntry(*sound, i); entry.buffer) {
                watch_.know(sound->files[i].file, entry.buffer->content);
            }
        }
    }
    watch_.watch(files);
}

std::vector<MissingFile> Session::missingSounds() const
{
    std::vector<MissingFile> missing;
    std::set<std::string> seen;
    std::error_code error;
    for (const auto& sound : history_.current()->sounds) {
        for (const SoundFile& file : sound->files) {
            const std::filesystem::path path = resolve(file.file);
            if ((path.empty() || !std::filesystem::exists(path, error)) && seen.insert(file.file).second) {
                missing.push_back({file.file, watch_.knownContent(file.file)});
            }
        }
    }
    return missing;
}

void Session::takeFound(const std::vector<FoundAgain>& found)
{
    std::map<std::string, std::string> now;
    for (const FoundAgain& one : found) {
        try {
            now[one.file] = takeIn(QString::fromStdString(one.at.string()), "sounds").toStdString();
        } catch (const FileError& error) {
            emit failed(error.what());
        }
    }
    Project next = project();
    for (const auto& sound : List(next.sounds)) {
        Sound moved = *sound;
        for (SoundFile& file : moved.files) {
            if (const auto at = now.find(file.file); at != now.end()) {
                file.file = at->second;
                bank_.forget(resolve(file.file));
            }
        }
        if (!(moved == *sound)) {
            next.sounds.put(std::move(moved));
        }
    }
    edit(std::move(next),
         now.size() == 1 ? tr("A missing sound found again") : tr("%1 missing sounds found again").arg(now.size()));
    emit soundsChanged(); // also of what came back to where it was
}

void Session::takeAnew(const std::string& file)
{
    const std::filesystem::path to = resolve(file);
    const std::filesystem::path half = to.string() + ".new";
    std::error_code error;
    std::filesystem::copy_file(watch_.sourceOf(file), half, std::filesystem::copy_options::overwrite_existing, error);
    if (!error) {
        std::filesystem::rename(half, to, error);
    }
    if (error) {
        std::error_code ignored;
        std::filesystem::remove(half, ignored);
        emit failed(tr("%1 cannot be taken anew (%2); it stays as it was")
                        .arg(QString::fromStdString(file), QString::fromStdString(error.message())));
    }
}

} // namespace stone
