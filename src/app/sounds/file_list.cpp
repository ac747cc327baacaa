// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/file_list.h"

#include "analysis/sound_findings.h"
#include "app/theme/labels.h"
#include "project/range.h"

#include <QFileDialog>
#include <QToolButton>

#include <cmath>

namespace stone
{

namespace
{
constexpr int linesShown = 4;
constexpr int lineHeight = 25;
} // namespace

/// One file.
class FileList::Line : public QWidget
{
public:
    Line(FileList& list, std::size_t index)
        : name_(new QPushButton), loudness_(theme::caption({})),
          level_(new NumberField("dB", rangeOf(&SoundFile::level_db), 1, 1)), accent_(new QCheckBox(tr("accent"))),
          remove_(new QToolButton)
    {
        name_->setObjectName("file" + QString::number(index));
        name_->setCheckable(true);
        name_->setProperty("link", true);
        name_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        level_->setObjectName("fileLevel" + QString::number(index));
        level_->setMinimumWidth(76);
        level_->setMaximumWidth(76);
        level_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        level_->setToolTip(tr("The level of this file alone"));
        accent_->setObjectName("accent" + QString::number(index));
        accent_->setToolTip(tr("Sounds now and then; otherwise it loops all the time"));
        remove_->setObjectName("remove" + QString::number(index));
        remove_->setText(QStringLiteral("×"));
        remove_->setFixedSize(22, 22);
        remove_->setStyleSheet("padding: 0;");
        remove_->setToolTip(tr("Take this file out of the sound"));
        remove_->setAccessibleName(remove_->toolTip());
        auto* box = new QHBoxLayout(this);
        box->setContentsMargins(0, 0, 0, 0);
        box->setSpacing(4);
        box->addWidget(name_, 1);
        box->addWidget(accent_);
        box->addWidget(loudness_);
        box->addWidget(level_);
        box->addWidget(remove_);
        setFixedHeight(lineHeight);
        connect(name_, &QPushButton::clicked, &list, [&list, index] { emit list.chosen(index); });
        connect(level_, &NumberField::valueEdited, &list, [&list, index, this](double value) {
            list.edit(tr("level of file %1 to %2 dB").arg(index + 1).arg(value), level_->objectName(),
                      [&](Sound& s) { s.files[index].level_db = value; });
        });
        connect(level_, &NumberField::editingFinished, &list, [&list] { list.session_.endGesture(); });
        connect(accent_, &QCheckBox::clicked, &list, [&list, index](bool on) {
            list.edit(on ? tr("accent") : tr("loop instead of accent"), {}, [&](Sound& s) { s.files[index].accent = on; });
        });
        connect(
            remove_, &QToolButton::clicked, &list,
            [&list, index] {
                list.edit(tr("file taken out"), {},
                          [&](Sound& s) { s.files.erase(s.files.begin() + static_cast<std::ptrdiff_t>(index)); });
            },
            Qt::QueuedConnection);
    }

    void show(const Sound& sound, std::size_t index, const SoundBank::Entry& entry, bool chosen)
    {
        const SoundFile& file = sound.files[index];
        const bool several = sound.files.size() > 1;
        const QString name = QString::fromStdString(file.file);
        name_->setText(several ? name.section('/', -1).section('.', 0, -2) : name);
        name_->setToolTip(name);
        name_->setChecked(chosen && several);
        name_->setStyleSheet(QString("text-align: left; color: %1; font-weight: %2;")
                                 .arg(entry.state == SoundBank::State::failed ? theme::cinnabar.name() : theme::ink.name(),
                                      chosen && several ? "bold" : "normal"));
        level_->present(file.level_db);
        level_->setVisible(several);
        accent_->setChecked(file.accent);
        accent_->setVisible(sound.make == Make::mixed);
        remove_->setVisible(several);
        QString measured = entry.state == SoundBank::State::failed    ? tr("not there")
                           : entry.state == SoundBank::State::loading ? tr("reading…")
                                                                      : QString();
        if (entry.buffer && several) {
            const double loudness = entry.buffer->facts.loudness_lufs() + file.level_db;
            measured = std::isfinite(loudness) ? theme::signedNumber(loudness, 1) : tr("silent");
        }
        measured_ = measured;
        loudness_->setToolTip(tr("Its loudness at this level, LUFS"));
    }

    /// While it plays its place stands where otherwise its loudness does.
    void showPosition(std::optional<double> at_s)
    {
        const QString text = at_s ? QStringLiteral("▶ %1 s").arg(*at_s, 0, 'f', 1) : measured_;
        if (text != loudness_->text()) {
            loudness_->setText(text);
        }
    }

private:
    QString measured_;
    QPushButton* name_;
    QLabel* loudness_;
    NumberField* level_;
    QCheckBox* accent_;
    QToolButton* remove_;
};

FileList::FileList(Session& session, QWidget* parent)
    : QWidget(parent), session_(session), scroll_(new QScrollArea), match_(new QPushButton(tr("Match levels"))),
      fold_(new QPushButton(tr("Fold to mono")))
{
    setObjectName("fileList");
    setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    auto* inside = new QWidget;
    box_ = new QVBoxLayout(inside);
    box_->setContentsMargins(0, 0, 0, 0);
    box_->setSpacing(0);
    box_->addStretch();
    scroll_->setWidget(inside);
    scroll_->setAccessibleName(tr("Files"));
    scroll_->setWidgetResizable(true);
    scroll_->setFrameShape(QFrame::NoFrame);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* add = new QPushButton(tr("Add files…"));
    add->setObjectName("addFiles");
    add->setProperty("link", true);
    add->setToolTip(tr("More files for this sound: variations, a run, layers"));
    match_->setObjectName("matchLevels");
    match_->setProperty("link", true);
    match_->setToolTip(tr("Sets the levels of the files so that all are equally loud; together they stay as loud as they are"));
    fold_->setObjectName("foldToMono");
    fold_->setProperty("link", true);
    fold_->setToolTip(tr("Takes a copy with one channel, the mean of all, saved beside the file"));
    connect(fold_, &QPushButton::clicked, this, [this] { session_.foldSound(id_, chosen_); });
    auto* below = new QHBoxLayout;
    below->addWidget(add);
    below->addWidget(match_);
    below->addWidget(fold_);
    below->addStretch();
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 0, 0, 0);
    box->setSpacing(0);
    box->addWidget(scroll_);
    box->addLayout(below);
    connect(add, &QPushButton::clicked, this, &FileList::addFiles);
    connect(match_, &QPushButton::clicked, this, &FileList::matchLevels);
}

void FileList::showSound(const SoundId& id, std::size_t chosen)
{
    id_ = id;
    chosen_ = chosen;
    refresh();
}

void FileList::refresh()
{
    const Sound* sound = session_.project().sounds.find(id_);
    const std::size_t count = sound != nullptr ? sound->files.size() : 0;
    while (lines_.size() > count) {
        delete lines_.back();
        lines_.pop_back();
    }
    while (lines_.size() < count) {
        lines_.push_back(new Line(*this, lines_.size()));
        box_->insertWidget(static_cast<int>(lines_.size()) - 1, lines_.back());
    }
    for (std::size_t i = 0; i < count; ++i) {
        lines_[i]->show(*sound, i, session_.soundEntry(*sound, i), i == chosen_);
    }
    scroll_->setFixedHeight(lineHeight * std::min(static_cast<int>(count), linesShown));
    match_->setVisible(count > 1);
    const SharedBuffer shown = chosen_ < count ? session_.soundEntry(*sound, chosen_).buffer : nullptr;
    fold_->setVisible(shown && shown->channelCount() > 1 && !sound->binaural);
}

void FileList::showPosition(std::size_t file, std::optional<double> at_s)
{
    if (file < lines_.size()) {
        lines_[file]->showPosition(at_s);
    }
}

void FileList::edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change)
{
    session_.editSound(id_, what, gesture, change);
}

void FileList::addFiles()
{
    session_.addFiles(id_, QFileDialog::getOpenFileNames(this, tr("More files for this sound"),
                                                         QString::fromStdString(session_.folder().string()),
                                                         tr("Sounds (*.wav *.flac *.ogg *.opus *.mp3 *.aiff *.aif)")));
}

void FileList::matchLevels()
{
    const Sound* sound = session_.project().sounds.find(id_);
    if (sound == nullptr) {
        return;
    }
    std::vector<SharedBuffer> files;
    for (std::size_t i = 0; i < sound->files.size(); ++i) {
        files.push_back(session_.soundEntry(*sound, i).buffer);
    }
    const std::vector<double> levels = matchedLevels_db(*sound, files);
    edit(tr("levels of its files matched"), {}, [&](Sound& s) {
        for (std::size_t i = 0; i < levels.size(); ++i) {
            s.files[i].level_db = levels[i];
        }
    });
}

} // namespace stone
