// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/level_tab.h"

#include "app/theme/labels.h"
#include "engine/scene.h"
#include "project/atomic_file.h"
#include "project/file_error.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLocale>
#include <QSettings>
#include <QVBoxLayout>
#include <QtConcurrent>

namespace stone
{

namespace
{

const QString fileKey = QStringLiteral("export/gltf");
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

} // namespace

LevelTab::LevelTab(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), what_(new QLabel), words_(new QLabel), write_(new QPushButton(tr("Write to…")))
{
    auto* box = new QVBoxLayout(this);
    box->setSpacing(8);
    box->addWidget(theme::explained(
        tr("The level with its geometry and its emitters as one glTF file (.glb). Emitters are as the Khronos draft "
           "KHR_audio_emitter has them: places, cones, distance models, levels. What the draft cannot say is kept beside "
           "it in the file, and all of it comes back with File › Bring in a level.")));
    what_->setObjectName("gltfWhat");
    what_->setWordWrap(true);
    what_->setAlignment(Qt::AlignTop);
    box->addWidget(what_, 1);
    words_->setObjectName("gltfWords");
    words_->setWordWrap(true);
    box->addWidget(words_);
    auto* end = new QHBoxLayout;
    write_->setObjectName("gltfWrite");
    end->addStretch();
    end->addWidget(write_);
    box->addLayout(end);
    connect(write_, &QPushButton::clicked, this, &LevelTab::choose);
    connect(&making_, &QFutureWatcherBase::finished, this, &LevelTab::show);
    file_ = usualFile();
    make();
}

LevelTab::~LevelTab()
{
    making_.waitForFinished();
}

QString LevelTab::usualFile() const
{
    const QString folder = QString::fromStdString(session_.folder().string());
    const QString own = (folder.isEmpty() ? QDir::homePath() : folder) + '/' +
                        QString::fromStdString(slug(session_.level().name)) + QStringLiteral(".glb");
    return QSettings().value(fileKey, own).toString();
}

void LevelTab::make()
{
    write_->setEnabled(false);
    what_->setText(tr("Being put together…"));
    const auto folder = std::filesystem::path(QFileInfo(file_).absolutePath().toStdString());
    making_.setFuture(
        QtConcurrent::run([project = session_.document(), level = session_.level().id, ground = session_.loadedLevel().ground,
                           resolve = filesInside(session_.folder()), folder] {
            const auto planted = plant(project, level, ground, Ways::find);
            return gltfOf(*planted->project, level, ground.get(), [&](const Sound&, const SoundFile& file) {
                const std::filesystem::path own = resolve(file.file);
                return own.empty() ? std::string() : uriOf(own, folder);
            });
        }));
}

void LevelTab::show()
{
    const GltfLevel& made = making_.result();
    QStringList lines{tr("<b>%1</b>: %2, %3 emitters that sound in any player of the draft.")
                          .arg(QString::fromStdString(session_.level().name).toHtmlEscaped(),
                               QLocale().formattedDataSize(static_cast<qint64>(made.bytes.size())))
                          .arg(made.emitters)};
    if (!made.inPart.empty()) {
        lines << tr("%1 of them only in part, as ends of reach, drawn lanes, areas, ways and chance have no words there: %2.")
                     .arg(made.inPart.size())
                     .arg(listed(made.inPart).toHtmlEscaped());
    }
    if (!made.without.empty()) {
        lines << tr("%1 are nodes that sound nowhere else: %2.")
                     .arg(made.without.size())
                     .arg(listed(made.without).toHtmlEscaped());
    }
    what_->setText(lines.join(QStringLiteral("<br><br>")));
    write_->setEnabled(true);
}

void LevelTab::choose()
{
    const QString file = QFileDialog::getSaveFileName(this, tr("The level as glTF"), file_, tr("glTF, binary (*.glb)"));
    if (!file.isEmpty()) {
        writeTo(file.endsWith(QStringLiteral(".glb")) ? file : file + QStringLiteral(".glb"));
    }
}

void LevelTab::writeTo(const QString& file)
{
    if (QFileInfo(file).absolutePath() != QFileInfo(file_).absolutePath()) {
        file_ = file;
        make(); // sounds are named from there
    }
    file_ = file;
    making_.waitForFinished();
    const GltfLevel made = making_.result();
    try {
        writeAtomically(file.toStdString(), made.bytes);
    } catch (const FileError& error) {
        words_->setText(QString::fromUtf8(error.what()));
        return;
    }
    QSettings().setValue(fileKey, file);
    words_->setText(tr("Written to %1.").arg(file));
}

} // namespace stone
