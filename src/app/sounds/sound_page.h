// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/crowd/burst_form.h"
#include "app/crowd/crowd_panel.h"
#include "app/forms/page.h"
#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"
#include "app/sounds/file_list.h"
#include "app/sounds/repeat_view.h"
#include "app/sounds/waveform_view.h"

#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QTabBar>

namespace stone
{

/// A sound on the bench: its files, the waveform of one of them with its seam, what was measured of it, and the forms that
/// say how it is played.
class SoundPage : public Page
{
    Q_OBJECT

public:
    SoundPage(Session& session, Playback& playback, QWidget* parent = nullptr);

    void showSound(const SoundId& id);
    const SoundId& sound() const { return id_; }
    void refresh() override;

private:
    void refreshPositions();
    LaneStack::Source overTime();
    QWidget* atOnce();
    void chooseFile(std::size_t file);
    void listen(double from_s);
    void showFacts(const Sound& sound, const SoundBank::Entry& entry);

    Session& session_;
    Playback& playback_;
    SoundId id_;
    std::size_t file_ = 0;
    QPushButton* back_;
    QLineEdit* name_;
    QPushButton* listen_;
    QCheckBox* around_;
    FileList* files_;
    WaveformView* wave_;
    SeamView* seam_;
    QLabel* verdict_;
    QLabel* facts_;
    QTabBar* tabs_;
    QStackedWidget* pages_;
    RepeatView* repeats_;
    CrowdPanel* crowd_;
    BurstForm* burst_;
    LaneStack* lanes_;
    std::vector<SoundForm*> forms_;
};

} // namespace stone
