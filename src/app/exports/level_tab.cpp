// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/one_file_tab.h"
#include "engine/scene.h"
#include "exports/gltf_export.h"

#include <QLocale>

namespace stone
{

namespace
{

constexpr qsizetype mostNames = 8;

QString listed(const std::vector<std::string>& names)
{
    QStringList some;
    for (std::size_t i = 0; i < std::min<std::size_t>(names.size(), mostNames); ++i) {
        some << QString::fromStdString(names[i]);
    }
    const auto more = static_cast<qsizetype>(names.size()) - some.size();
    return some.join(QStringLiteral(", ")) + (more > 0 ? QObject::tr(" and %1 more").arg(more) : QString());
}

QString wordsFor(const std::string& level, const GltfLevel& made)
{
    QStringList lines{QObject::tr("<b>%1</b>: %2, %n emitters that sound in any player of the draft.", nullptr,
                                  static_cast<int>(made.emitters))
                          .arg(QString::fromStdString(level).toHtmlEscaped(),
                               QLocale().formattedDataSize(static_cast<qint64>(made.bytes.size())))};
    if (!made.inPart.empty()) {
        lines << QObject::tr("%1 of them only in part, as ends of reach, drawn lanes, areas, ways and chance have no words "
                             "there: %2.")
                     .arg(made.inPart.size())
                     .arg(listed(made.inPart).toHtmlEscaped());
    }
    if (!made.without.empty()) {
        lines << QObject::tr("%1 are nodes that sound nowhere else: %2.")
                     .arg(made.without.size())
                     .arg(listed(made.without).toHtmlEscaped());
    }
    return lines.join(QStringLiteral("<br><br>"));
}

} // namespace

OneFileTab* levelTab(Session& session)
{
    return new OneFileTab(
        session,
        {.key = QStringLiteral("gltf"),
         .explained = QObject::tr(
             "The level with its geometry and its emitters as one glTF file (.glb). Emitters are as the Khronos draft "
             "KHR_audio_emitter has them: places, cones, distance models, levels. What the draft cannot say is kept beside "
             "it in the file, and all of it comes back with File › Bring in a level."),
         .ending = QStringLiteral(".glb"),
         .filter = QObject::tr("glTF, binary (*.glb)"),
         .title = QObject::tr("The level as glTF"),
         .ready = [&session](const std::filesystem::path& folder) {
             return [project = session.document(), level = session.level().id, ground = session.loadedLevel().ground,
                     resolve = filesInside(session.folder()), folder] {
                 const auto planted = plant(project, level, ground, Ways::find);
                 GltfLevel made = gltfOf(*planted->project, level, ground.get(), [&](const Sound&, const SoundFile& file) {
                     const std::filesystem::path own = resolve(file.file);
                     return own.empty() ? std::string() : uriOf(own, folder);
                 });
                 QString words = wordsFor(planted->level().name, made);
                 return OneFileTab::Made{std::move(made.bytes), std::move(words)};
             };
         }});
}

} // namespace stone
