// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"
#include "app/shell/output_menu.h"

#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QSlider>
#include <QToolButton>

namespace stone
{

/// Peak and RMS of two channels, -60 to 0 dB.
class LevelMeter : public QWidget
{
    Q_OBJECT

public:
    explicit LevelMeter(QWidget* parent = nullptr);
    void showLevels(const ChannelGains& peak, const ChannelGains& rms_db);
    QSize sizeHint() const override { return {92, 14}; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    ChannelGains peak_{};
    ChannelGains rms_db_{};
};

/// The bar at the top: which project, Listen, the walk, where the sound goes, how loud it is.
class TopBar : public QWidget
{
    Q_OBJECT

public:
    TopBar(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Fills the list of outputs anew.
    void refreshOutputs();
    OutputMenu& outputMenu() { return *layout_; }

signals:
    /// The sound of what is looked at is wanted, or is not any more.
    void listenWanted();
    /// A walk is to be drawn on the Plan.
    void drawWalkWanted();

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    QMenu* makeWalkMenu();
    void refreshProject();
    void refreshWalks();
    void refreshTransport();
    void refreshMeters();
    void showLoudness(double lufs);
    void showVoices(std::size_t voices, int limit, std::size_t gaveWay);

    Session& session_;
    Playback& playback_;
    QLabel* title_;
    QLabel* subtitle_;
    QPushButton* listen_;
    QComboBox* walks_;
    QToolButton* walkActs_;
    QToolButton* play_;
    QSlider* time_;
    QLabel* clock_;
    QComboBox* output_;
    OutputMenu* layout_;
    QLabel* loudness_;
    LevelMeter* meter_;
    QLabel* voices_;
    std::size_t gaveWay_ = 0;          ///< that voices_ speaks of
    QList<QWidget*> whereThereIsRoom_; ///< not shown in a narrow window
};

} // namespace stone
