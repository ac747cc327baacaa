// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/thing_form.h"

#include <QGridLayout>

namespace stone
{

/// Fields that show and change a sound and one of its files.
class SoundForm : public ThingForm<Sound>
{
    Q_OBJECT

public:
    explicit SoundForm(Session& session, QWidget* parent = nullptr);

    void showSound(const SoundId& id, std::size_t file);

protected:
    const Sound* thing() const override { return session_.project().sounds.find(id_); }
    void edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change) override;
    const Sound* sound() const { return thing(); }
    std::size_t file() const { return file_; }
    /// The file that is chosen; one to throw away when there is none.
    SoundFile& fileOf(Sound& sound) const;

private:
    SoundId id_;
    std::size_t file_ = 0;
    mutable SoundFile none_;
};

} // namespace stone
