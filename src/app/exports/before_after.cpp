// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/exports/before_after.h"

#include "app/session/work_pool.h"
#include "app/theme/labels.h"

#include <QHBoxLayout>
#include <QLocale>
#include <QtConcurrent>

#include <algorithm>
#include <utility>

namespace stone
{

BeforeAfter::BeforeAfter(Session& session, Playback& playback, QWidget* parent)
    : QWidget(parent), session_(session), playback_(playback), words_(theme::explained({})),
      now_(new QPushButton(tr("Hear it now"))), then_(new QPushButton(tr("Hear it then")))
{
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    words_->setObjectName("soundsHeard");
    now_->setObjectName("soundsHearNow");
    then_->setObjectName("soundsHearThen");
    now_->setToolTip(tr("Plays the file as it is; again: stops it"));
    then_->setToolTip(tr("Plays what becomes of it with these settings, as loudly as the file is now; again: stops it"));
    row->addWidget(words_, 1);
    for (QPushButton* button : {now_, then_}) {
        button->setCheckable(true);
        row->addWidget(button);
    }
    connect(now_, &QPushButton::clicked, this, &BeforeAfter::hearNow);
    connect(then_, &QPushButton::clicked, this, &BeforeAfter::hearThen);
    connect(&playback_, &Playback::listeningChanged, this, &BeforeAfter::refresh);
    connect(&making_, &QFutureWatcherBase::finished, this, &BeforeAfter::made);
    refresh();
}

BeforeAfter::~BeforeAfter()
{
    disconnect(&playback_, nullptr, this, nullptr);
    if (const auto& heard = playback_.auditioned(); heard && sound_ && heard->sound == sound_->sound) {
        playback_.stopAudition();
    }
    making_.waitForFinished();
}

void BeforeAfter::choose(const std::optional<PreparedSound>& sound, const SoundTarget& target)
{
    const bool same =
        sound && sound_ && sound->from == sound_->from && sound->channels == sound_->channels && target == target_;
    if (!same) {
        made_.reset();
        wanted_ = false;
        ++number_;
    }
    sound_ = sound;
    target_ = target;
    refresh();
}

/// Where what becomes of it is put.
std::filesystem::path BeforeAfter::madeFolder() const
{
    return std::filesystem::path(folder_.path().toStdString()) / std::to_string(number_);
}

/// Which of its sound's files it is.
std::optional<std::size_t> BeforeAfter::fileIndex() const
{
    const Sound* of = sound_ ? session_.project().sounds.find(sound_->sound) : nullptr;
    if (of == nullptr) {
        return {};
    }
    const auto found = std::find_if(of->files.begin(), of->files.end(),
                                    [&](const SoundFile& file) { return session_.resolve(file.file) == sound_->from; });
    return found != of->files.end() ? std::optional(static_cast<std::size_t>(found - of->files.begin())) : std::nullopt;
}

void BeforeAfter::hearNow()
{
    wanted_ = false;
    if (!now_->isChecked()) {
        playback_.stopAudition();
    } else if (const auto file = fileIndex()) {
        playback_.auditionFile(sound_->sound, *file, 0.0, sound_->loop);
    }
    refresh();
}

void BeforeAfter::hearThen()
{
    if (!then_->isChecked()) {
        wanted_ = false;
        playback_.stopAudition();
    } else if (made_) {
        play();
    } else if (sound_) {
        wanted_ = true;
        if (!making_.isRunning()) {
            making_.setFuture(QtConcurrent::run(&workPool(), [sound = *sound_, target = target_, folder = madeFolder()] {
                Made made{folder / sound.to, {}, {}};
                try {
                    std::filesystem::create_directories(folder);
                    made.facts = prepareSound(sound, target, folder);
                } catch (const std::exception& error) { // FileError and filesystem_error say which file, and why
                    made.trouble = error.what();
                }
                return made;
            }));
        }
    }
    refresh();
}

/// What was made, unless something else was chosen meanwhile: then that is made now, where it is waited for.
void BeforeAfter::made()
{
    const Made made = making_.result();
    if (sound_ && made.file == madeFolder() / sound_->to) {
        made_ = made;
    }
    if (std::exchange(wanted_, false)) {
        then_->setChecked(true);
        hearThen();
    }
    refresh();
}

void BeforeAfter::play()
{
    const auto file = fileIndex();
    if (file && made_->trouble.empty()) {
        playback_.auditionInstead(sound_->sound, *file, sound_->loop, made_->file, -made_->facts.gain_db);
    }
}

void BeforeAfter::refresh()
{
    const auto& heard = playback_.auditioned();
    const bool ours = heard && sound_ && heard->sound == sound_->sound && heard->file;
    now_->setChecked(ours && heard->instead.empty());
    then_->setChecked(wanted_ || (ours && !heard->instead.empty()));
    now_->setEnabled(sound_.has_value());
    then_->setEnabled(sound_.has_value());
    const auto size = [](std::uint64_t bytes) { return QLocale().formattedDataSize(static_cast<qint64>(bytes)); };
    words_->setText(!sound_   ? tr("Choose a file to hear it before and after.")
                    : wanted_ ? tr("Being prepared…")
                    : !made_  ? QString::fromStdString(sound_->to)
                    : made_->trouble.empty()
                        ? tr("%1: %2 become %3")
                              .arg(QString::fromStdString(sound_->to), size(made_->facts.bytesBefore), size(made_->facts.bytes))
                        : QString::fromStdString(made_->trouble));
}

} // namespace stone
