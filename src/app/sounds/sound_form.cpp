// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sounds/sound_form.h"

namespace stone
{

SoundForm::SoundForm(Session& session, QWidget* parent) : ThingForm(session, parent)
{
}

void SoundForm::showSound(const SoundId& id, std::size_t file)
{
    id_ = id;
    file_ = file;
    refresh();
}

SoundFile& SoundForm::fileOf(Sound& sound) const
{
    return file_ < sound.files.size() ? sound.files[file_] : none_;
}

void SoundForm::edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change)
{
    session_.editSound(id_, what, gesture, change);
}

} // namespace stone
