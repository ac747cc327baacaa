// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/shell/guide_window.h"

#include "app/theme/theme.h"

#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QPushButton>
#include <QShortcut>
#include <QSysInfo>
#include <QThread>
#include <QVBoxLayout>

#include <samplerate.h>
#include <sndfile.h>

namespace stone
{

GuideWindow::GuideWindow(const QString& file, QWidget* parent)
    : QDialog(parent), text_(new QTextBrowser), wanted_(new QLineEdit)
{
    setObjectName("guide");
    setWindowTitle(tr("Guide"));
    resize(760, 620);
    text_->setObjectName("guideText");
    text_->setOpenExternalLinks(false);
    text_->setSearchPaths({QFileInfo(file).absolutePath()});
    text_->document()->setDefaultFont(theme::text(10.5));
    QFile guide(file);
    if (guide.open(QIODevice::ReadOnly)) {
        text_->setMarkdown(QString::fromUtf8(guide.readAll()));
    } else {
        text_->setPlainText(tr("The guide is not where it was installed: %1").arg(file));
    }
    wanted_->setObjectName("guideSearch");
    wanted_->setPlaceholderText(tr("Find in the guide"));
    wanted_->setAccessibleName(tr("Find in the guide"));
    auto* row = new QHBoxLayout;
    row->addWidget(wanted_, 1);
    const auto button = [&](const QString& name, bool backwards) {
        auto* made = new QPushButton(name);
        made->setAutoDefault(false);
        connect(made, &QPushButton::clicked, this, [this, backwards] { find(backwards); });
        row->addWidget(made);
    };
    button(tr("Next"), false);
    button(tr("Before"), true);
    auto* box = new QVBoxLayout(this);
    box->addLayout(row);
    box->addWidget(text_, 1);
    connect(wanted_, &QLineEdit::returnPressed, this, [this] { find(false); });
    auto* search = new QShortcut(QKeySequence::Find, this);
    connect(search, &QShortcut::activated, wanted_, [this] { wanted_->setFocus(); });
    wanted_->setFocus();
}

/// From where the last was found; from the other end when there is no more.
void GuideWindow::find(bool backwards)
{
    const QTextDocument::FindFlags flags = backwards ? QTextDocument::FindBackward : QTextDocument::FindFlags();
    if (text_->find(wanted_->text(), flags)) {
        return;
    }
    text_->moveCursor(backwards ? QTextCursor::End : QTextCursor::Start);
    text_->find(wanted_->text(), flags);
}

QString reportOf(const QString& output)
{
    return QStringLiteral("Stone Echo %1\nSystem: %2, %3, %4 cores\nQt %5, libsndfile %6, libsamplerate %7\nOutput: %8\n")
        .arg(STONE_VERSION, QSysInfo::prettyProductName(), QSysInfo::currentCpuArchitecture())
        .arg(QThread::idealThreadCount())
        .arg(qVersion(), sf_version_string(), src_get_version())
        .arg(output.isEmpty() ? QStringLiteral("none") : output);
}

} // namespace stone
