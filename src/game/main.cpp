// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme/theme.h"
#include "game/game_window.h"
#include "game/walk_along.h"
#include "level/read_geometry.h"
#include "project/file_error.h"
#include "project/read.h"

#include <QApplication>
#include <QCommandLineParser>

#include <csignal>
#include <cstdio>

namespace
{

using namespace stone;

volatile std::sig_atomic_t ended = 0;

const Level& levelNamed(const Project& project, const std::string& name)
{
    for (const auto& level : project.levels) {
        if (name.empty() || level->name == name || level->id.text == name) {
            return *level;
        }
    }
    throw FileError(project.name + ": no level is called \"" + name + "\"; see stone-echo-cli info");
}

const Walk& walkNamed(const Level& level, const std::string& name)
{
    for (const auto& walk : level.walks) {
        if (walk->name == name || walk->id.text == name) {
            return *walk;
        }
    }
    throw FileError(level.name + ": no walk is called \"" + name + "\"; see stone-echo-cli info");
}

int play(QApplication& app, const QCommandLineParser& parser)
{
    const auto document = documentPath(parser.positionalArguments().value(0).toStdString());
    const auto project = std::make_shared<const Project>(readProjectFile(document).project);
    const Level& level = levelNamed(*project, parser.value("level").toStdString());
    const std::string host = parser.value("to").toStdString();
    const int port = parser.value("port").toInt();
    if (port < 1 || port > 65'535) {
        throw FileError("--port " + parser.value("port").toStdString() + ": a port is 1 to 65535");
    }
    if (parser.isSet("headless")) {
        const Walk& walk = walkNamed(level, parser.value("walk").toStdString());
        const double rate = std::clamp(parser.value("rate").toDouble(), 1.0, 1000.0);
        std::signal(SIGINT, [](int) { ended = 1; });
        std::signal(SIGTERM, [](int) { ended = 1; });
        game::Teller teller(host, port, *project, level);
        const bool whole = game::walkAlong(teller, walk, rate, [] { return ended != 0; });
        std::printf("%s: %s\n", walk.name.c_str(),
                    !teller.answered() ? "walked; nobody answered"
                    : whole            ? "walked, and listened along to"
                                       : "interrupted");
        return whole ? 0 : 130;
    }
    theme::apply(app);
    const auto folder = std::filesystem::absolute(document).parent_path();
    game::GameWindow window(project, level, readGeometry(level, folder).ground, host, port);
    window.QWidget::show();
    return QApplication::exec();
}

} // namespace

int main(int argc, char** argv)
{
    // Without a window there need be no display.
    for (int i = 1; i < argc; ++i) {
        if (std::string_view(argv[i]) == "--headless") {
            qputenv("QT_QPA_PLATFORM", "offscreen");
        }
    }
    QApplication app(argc, argv);
    QApplication::setApplicationName("Stone Echo's pretend game");
    QApplication::setApplicationVersion(STONE_VERSION);
    QCommandLineParser parser;
    parser.setApplicationDescription(
        "A pretend game: walks through a level, tells Stone Echo what goes on, and plays nothing itself.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("PROJECT", "the project's folder or its document");
    parser.addOptions({{"level", "a level's name; the first one if left out", "NAME"},
                       {"to", "the machine on which Stone Echo runs", "HOST", "127.0.0.1"},
                       {"port", "at which it listens along", "PORT", "9137"},
                       {"headless", "without a window: goes along a walk and ends"},
                       {"walk", "which walk that is", "NAME"},
                       {"rate", "how often it tells, times a second", "N", "60"}});
    parser.process(app);
    if (parser.positionalArguments().size() != 1) {
        std::fputs("stone-echo-game: say in which project it plays; see --help\n", stderr);
        return 2;
    }
    try {
        return play(app, parser);
    } catch (const std::exception& error) {
        std::fprintf(stderr, "stone-echo-game: %s\n", error.what());
        return 1;
    }
}
