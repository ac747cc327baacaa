// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/one_file_tab.h"
#include "engine/scene.h"
#include "exports/web_page.h"
#include "project/atomic_file.h"

#include <QLocale>

namespace stone
{

namespace
{

QString wordsFor(const std::string& level, const WebPage& page)
{
    QString words = QObject::tr("<b>%1</b>: %2, %n emitters are heard in it.", nullptr, static_cast<int>(page.emitters))
                        .arg(QString::fromStdString(level).toHtmlEscaped(),
                             QLocale().formattedDataSize(static_cast<qint64>(page.html.size())));
    if (!page.leavesOut.empty()) {
        words += QObject::tr("<p>It leaves out, and says so:<ul>");
        for (const std::string& line : page.leavesOut) {
            words += QStringLiteral("<li>") + QString::fromStdString(line).toHtmlEscaped();
        }
        words += QStringLiteral("</ul>");
    }
    return words;
}

} // namespace

OneFileTab* pageTab(Session& session)
{
    return new OneFileTab(
        session,
        {.key = QStringLiteral("page"),
         .explained = QObject::tr(
             "A page to show others: they open it in a browser, walk through the level with the keys and hear what a browser "
             "can play by itself: Points by their formulas and cones, and beds that are everywhere. It needs no network and "
             "no other file; the sounds are in it."),
         .ending = QStringLiteral(".html"),
         .filter = QObject::tr("Pages (*.html)"),
         .title = QObject::tr("A page to show others"),
         .opens = true,
         .ready = [&session](const std::filesystem::path&) {
             return [project = session.document(), level = session.level().id, ground = session.loadedLevel().ground,
                     resolve = filesInside(session.folder())] {
                 const auto planted = plant(project, level, ground, Ways::find);
                 WebPage page = webPageOf(*planted->project, level, pageOutline(planted->level(), ground.get()),
                                          [&](const SoundFile& file) { return fileText(resolve(file.file)); });
                 QString words = wordsFor(planted->level().name, page);
                 return OneFileTab::Made{std::move(page.html), std::move(words)};
             };
         }});
}

} // namespace stone
