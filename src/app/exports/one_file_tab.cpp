// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/one_file_tab.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"
#include "project/atomic_file.h"
#include "project/edit.h"
#include "project/file_error.h"

#include <QDesktopServices>
#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QScrollArea>
#include <QSettings>
#include <QUrl>
#include <QVBoxLayout>
#include <QtConcurrent>

namespace stone
{

OneFileTab::OneFileTab(Session& session, Kind kind, QWidget* parent)
    : QWidget(parent), session_(session), kind_(std::move(kind)), what_(new QLabel), words_(new QLabel),
      open_(new QPushButton(tr("Open it"))), write_(new QPushButton(tr("Write to…")))
{
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(kind_.explained));
    what_->setObjectName(kind_.key + "What");
    what_->setWordWrap(true);
    what_->setAlignment(Qt::AlignTop);
    auto* scroll = new QScrollArea; // what is left out may be long
    scroll->setWidget(what_);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    box->addWidget(scroll, 1);
    words_->setObjectName(kind_.key + "Words");
    words_->setWordWrap(true);
    box->addWidget(words_);
    auto* end = new QHBoxLayout;
    open_->setObjectName(kind_.key + "Open");
    open_->hide();
    write_->setObjectName(kind_.key + "Write");
    end->addStretch();
    end->addWidget(open_);
    end->addWidget(write_);
    box->addLayout(end);
    connect(write_, &QPushButton::clicked, this, &OneFileTab::choose);
    connect(open_, &QPushButton::clicked, this, [this] {
        if (!QDesktopServices::openUrl(QUrl::fromLocalFile(file_))) {
            words_->setText(tr("No program here opens such files; it lies at %1.").arg(file_));
        }
    });
    connect(&watcher_, &QFutureWatcherBase::finished, this, &OneFileTab::made);
    file_ = usualFile();
    make();
}

OneFileTab::~OneFileTab()
{
    watcher_.waitForFinished();
}

QString OneFileTab::usualFile() const
{
    const QString folder = QString::fromStdString(session_.folder().string());
    const QString own = (folder.isEmpty() ? QDir::homePath() : folder) + '/' +
                        QString::fromStdString(slug(session_.level().name)) + kind_.ending;
    return QSettings().value(QStringLiteral("export/") + kind_.key, own).toString();
}

void OneFileTab::make()
{
    making_ = true;
    write_->setEnabled(false);
    what_->setText(tr("Being put together…"));
    watcher_.setFuture(QtConcurrent::run(&workPool(), kind_.ready(QFileInfo(file_).absolutePath().toStdString())));
}

void OneFileTab::made()
{
    making_ = false;
    what_->setText(watcher_.result().words);
    write_->setEnabled(true);
    if (std::exchange(wanted_, false)) {
        write();
    }
}

void OneFileTab::choose()
{
    const QString file = QFileDialog::getSaveFileName(this, kind_.title, file_, kind_.filter);
    if (!file.isEmpty()) {
        writeTo(file.endsWith(kind_.ending) ? file : file + kind_.ending);
    }
}

void OneFileTab::writeTo(const QString& file)
{
    const bool elsewhere = QFileInfo(file).absolutePath() != QFileInfo(file_).absolutePath();
    file_ = file;
    if (making_ || elsewhere) {
        wanted_ = true;
        if (elsewhere) {
            make();
        }
        return;
    }
    write();
}

void OneFileTab::write()
{
    try {
        writeAtomically(file_.toStdString(), watcher_.result().bytes);
    } catch (const FileError& error) {
        words_->setText(QString::fromUtf8(error.what()));
        return;
    }
    QSettings().setValue(QStringLiteral("export/") + kind_.key, file_);
    words_->setText(tr("Written to %1.").arg(file_));
    open_->setVisible(kind_.opens);
}

} // namespace stone
