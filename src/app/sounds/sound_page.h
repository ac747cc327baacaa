#pragma once

#include "app/bench/number_field.h"
#include "app/session/playback.h"
#include "app/sounds/waveform_view.h"

#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace stone
{

/// A sound on the bench: its waveform and seam, what was measured of it, how it is played, where it comes from.
class SoundPage : public QWidget
{
    Q_OBJECT

public:
    SoundPage(Session& session, Playback& playback, QWidget* parent = nullptr);

    void showSound(const SoundId& id);
    const SoundId& sound() const { return id_; }
    void refresh();
    /// Only where the copies are.
    void refreshPositions();

private:
    void edit(const QString& what, const QString& gesture, const std::function<void(Sound&)>& change);
    NumberField* number(const char* name, const QString& unit, double least, double most, int decimals, double step,
                        double Sound::*member, const QString& what, const QString& help);
    QLineEdit* words(const char* name, const QString& label, const std::function<std::string&(Sound&)>& member);
    void listen(double from_s);

    Session& session_;
    Playback& playback_;
    SoundId id_;
    QLineEdit* name_;
    QLabel* file_;
    QPushButton* listen_;
    QLabel* used_;
    WaveformView* wave_;
    SeamView* seam_;
    QLabel* verdict_;
    QLabel* facts_;
    QCheckBox* loop_;
    QCheckBox* randomStart_;
    std::vector<std::pair<NumberField*, double Sound::*>> numbers_;
    std::vector<std::pair<QLineEdit*, std::function<std::string&(Sound&)>>> words_;
};

} // namespace stone
