// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lists/sound_library.h"

#include "app/theme/labels.h"

#include <QHBoxLayout>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>
#include <iterator>
#include <map>

namespace stone
{

SoundLibrary::SoundLibrary(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), filter_(new QLineEdit), list_(new RowList),
      cost_(theme::caption({}))
{
    list_->setObjectName("sounds");
    list_->rows().dragType = "application/x-stone-echo-sound";
    list_->setDragEnabled(true);
    list_->takesRows();
    connect(list_, &RowList::dropped, this,
            [this](const QString& key, const Row& onto) { putInFolder({key.toStdString()}, onto); });
    filter_->setObjectName("soundFilter");
    filter_->setPlaceholderText(tr("name, tag or folder"));
    filter_->setClearButtonEnabled(true);
    cost_->setObjectName("soundsCost");
    auto* filterBox = new QHBoxLayout;
    filterBox->setContentsMargins(10, 0, 10, 0);
    filterBox->addWidget(filter_);
    auto* box = new QVBoxLayout(this);
    box->setContentsMargins(0, 6, 0, 6);
    box->addLayout(filterBox);
    box->addWidget(list_);
    for (QLabel* line : {theme::explained(tr("Drag a sound onto the Plan to place it. Shift+Space plays it.")), cost_}) {
        line->setContentsMargins(12, 0, 0, 0);
        box->addWidget(line);
    }
    auto* add = new QPushButton(tr("Add sounds…"));
    add->setObjectName("addSounds");
    auto* addBox = new QHBoxLayout;
    addBox->setContentsMargins(10, 0, 10, 0);
    addBox->addWidget(add);
    addBox->addStretch();
    box->addLayout(addBox);

    connect(add, &QPushButton::clicked, this, &SoundLibrary::addWanted);
    connect(filter_, &QLineEdit::textChanged, this, &SoundLibrary::refresh);
    connect(list_, &RowList::chosen, this, [this] { emit chosen(current()); });
    connect(list_, &QListView::activated, this, [this] { emit placeWanted(current()); });
    connect(list_, &RowList::playPressed, this, [this](const QString& key, Qt::KeyboardModifiers held) {
        playback_.toggleAudition({key.toStdString()}, held & Qt::ShiftModifier     ? Rounds::endless
                                                      : held & Qt::ControlModifier ? Rounds::once
                                                                                   : Rounds::asTheSound);
    });
    connect(&playback_, &Playback::listeningChanged, this, &SoundLibrary::refresh);
    // One refresh for a run of edits: a drag makes sixty a second.
    refreshSoon_.setSingleShot(true);
    refreshSoon_.setInterval(60);
    connect(&refreshSoon_, &QTimer::timeout, this, &SoundLibrary::refresh);
    for (const auto change : {&Session::documentChanged, &Session::soundsChanged}) {
        connect(&session_, change, this, [this] {
            if (!refreshSoon_.isActive()) {
                refreshSoon_.start();
            }
        });
    }
    refresh();
}

Row SoundLibrary::rowOf(const Sound& sound) const
{
    Row row;
    row.key = QString::fromStdString(sound.id.text);
    row.title = QString::fromStdString(sound.name);
    double seconds = 0.0;
    std::size_t channels = 0;
    bool loading = false;
    for (std::size_t i = 0; i < sound.files.size(); ++i) {
        const SoundBank::Entry entry = session_.soundEntry(sound, i);
        row.warning = row.warning || entry.state == SoundBank::State::failed;
        loading = loading || entry.state == SoundBank::State::loading;
        if (entry.buffer) {
            seconds = std::max(seconds, entry.buffer->seconds());
            channels = std::max(channels, entry.buffer->channelCount());
        }
    }
    row.warning = row.warning || sound.files.empty();
    if (row.warning) {
        row.detail = tr("cannot be read: see the findings");
    } else if (loading) {
        row.detail = tr("reading…");
    } else {
        static const char* makes[] = {"", "run of %1", "slices", "%1 layers", "mixed, %1 files"};
        const QString width = channels == 1 ? tr("mono") : channels == 2 ? tr("stereo") : tr("%1 channels").arg(channels);
        const bool one = sound.make == Make::one;
        const QString make = tr(makes[static_cast<std::size_t>(sound.make)]);
        row.detail = (one && sound.files.size() > 1 ? tr("%1 variations, ").arg(sound.files.size())
                      : one                         ? QString()
                                                    : (make.contains('%') ? make.arg(sound.files.size()) : make) + ", ") +
                     (sound.loop ? tr("loop, ") : tr("plays once, ")) + width;
        row.value = QString::number(seconds, 'f', 1) + " s";
        row.plays = playback_.auditions(sound.id);
    }
    return row;
}

/// Into the folder of a heading, or of the sound that it was dropped on.
void SoundLibrary::putInFolder(const SoundId& id, const Row& onto)
{
    const Sound* beside = onto.heading ? nullptr : session_.project().sounds.find({onto.key.toStdString()});
    const std::string folder = beside != nullptr ? beside->folder : onto.detail.toStdString();
    session_.editSound(id,
                       folder.empty() ? tr("out of its folder") : tr("into the folder %1").arg(QString::fromStdString(folder)),
                       {}, [&](Sound& s) { s.folder = folder; });
}

void SoundLibrary::audition()
{
    if (!current().empty()) {
        playback_.toggleAudition(current());
    }
}

void SoundLibrary::refresh()
{
    const QString wanted = filter_->text();
    std::map<std::string, std::vector<Row>> byFolder;
    for (const auto& sound : session_.project().sounds) {
        const auto matches = [&](const std::string& words) {
            return QString::fromStdString(words).contains(wanted, Qt::CaseInsensitive);
        };
        if (matches(sound->name) || matches(sound->folder) || std::any_of(sound->tags.begin(), sound->tags.end(), matches)) {
            byFolder[sound->folder].push_back(rowOf(*sound));
        }
    }
    std::vector<Row> rows;
    for (auto& [folder, inside] : byFolder) {
        if (byFolder.size() > 1 || !folder.empty()) {
            Row heading;
            heading.heading = true;
            heading.title = folder.empty() ? tr("in no folder") : QString::fromStdString(folder);
            heading.detail = QString::fromStdString(folder);
            rows.push_back(heading);
        }
        rows.insert(rows.end(), std::make_move_iterator(inside.begin()), std::make_move_iterator(inside.end()));
    }
    list_->setRows(std::move(rows));
    const SoundBank::Cost cost = session_.bank().cost();
    cost_->setText(tr("All sounds: %1 MB in memory").arg(static_cast<double>(cost.bytes) / 1e6, 0, 'f', 1) +
                   (cost.decoding > 0.0 ? tr(", %1 % of a core to decode").arg(100.0 * cost.decoding, 0, 'f', 2) : QString()));
    cost_->setToolTip(tr("Besides, %1 MB of what nothing uses any more are kept for undo; beyond %2 MB the oldest are let go")
                          .arg(static_cast<double>(cost.resting) / 1e6, 0, 'f', 1)
                          .arg(static_cast<double>(SoundBank::restingBytes) / 1e6, 0, 'f', 0));
}

} // namespace stone
