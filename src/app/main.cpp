// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/main_window.h"
#include "app/theme/theme.h"

#include <QApplication>
#include <QCommandLineParser>

int main(int argc, char** argv)
{
    using namespace stone;
    QApplication app(argc, argv);
    QApplication::setApplicationName("Stone Echo");
    QApplication::setOrganizationName("Stone Echo");
    QApplication::setApplicationVersion(STONE_VERSION);
    QApplication::setDesktopFileName("stone-echo");
    QApplication::setWindowIcon(QIcon::fromTheme("stone-echo", QIcon(MainWindow::shared("packaging/icons/128.png"))));

    QCommandLineParser parser;
    parser.setApplicationDescription("A desk for the sound of game levels.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("PROJECT", "the project's folder or its document", "[PROJECT]");
    parser.process(app);

    theme::apply(app);
    Session session(48'000, stateFolder(), cacheFolder());
    Playback playback(session, openOutput);
    MainWindow window(session, playback);
    window.show();
    if (!parser.positionalArguments().isEmpty()) {
        window.openProject(parser.positionalArguments().first());
    }
    window.offerLeftBehind();
    window.offerFirst();
    return QApplication::exec();
}
