#include "app/session/session.h"
#include "engine/scene.h"
#include "level/level_files.h"
#include "project/read.h"

#include <QFileInfo>

#include <algorithm>

/// The session's sounds: brought in, found again, in memory.
namespace stone
{

namespace
{

std::filesystem::path pathOf(const QString& file)
{
    return {file.toStdString()};
}

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
        return QString::fromStdString(files_.takeIn(pathOf(file), subfolder.toStdString(), filesBeside(pathOf(file))));
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

} // namespace stone
