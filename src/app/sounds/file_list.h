// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/sounds/sound_form.h"

#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace stone
{

/// The files of a sound: one is chosen, each has its level, what it measures and, in a mixed sound, whether it is an
/// accent.
class FileList : public QWidget
{
    Q_OBJECT

public:
    explicit FileList(Session& session, QWidget* parent = nullptr);

    void showSound(const SoundId& id, std::size_t chosen);
    void refresh();
    /// Where in a file it plays now, seconds; nothing: nowhere.
    void showPosition(std::size_t file, std::optional<double> at_s);

signals:
    void chosen(std::size_t file);

private:
    class Line;

    void edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change);
    void addFiles();
    void matchLevels();

    Session& session_;
    SoundId id_;
    std::size_t chosen_ = 0;
    std::vector<Line*> lines_;
    QVBoxLayout* box_ = nullptr;
    QScrollArea* scroll_;
    QPushButton* match_;
    QPushButton* fold_;
};

} // namespace stone
