// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

namespace stone
{

/// The part of the Bench where a falloff is worked on: which one, shared or its own, its lanes over distance, and what
/// it is compared with.
class FalloffEditor : public Page
{
    Q_OBJECT

public:
    FalloffEditor(Session& session, Playback& playback, QWidget* parent = nullptr);

    /// Shows the falloff of what is on the bench. Nothing for beds, which have none.
    void refresh() override;
    /// Only the ears' place on the ruler.
    void follow() override;
    /// Compares with the falloff as it is now; again: hears that one, and again: back. Only for these ears, until it is kept.
    void compare();

private:
    LaneStack::Source source();
    void fillMenu();
    void chooseFalloff(int index);
    void makeOwn();
    void share();
    void change(std::vector<Lane> lanes, const QString& what, const QString& gesture);
    void put(Falloff falloff, const QString& what, const QString& gesture);
    void compareWith(const Falloff& falloff, const QString& name);
    void stopComparing();
    void keepCompared();
    void hearOwn();
    bool hearsOther() const;
    void listenAt(double distance_m);
    std::optional<double> earsDistance() const;
    Falloff current() const;

    Session& session_;
    Playback& playback_;
    QComboBox* which_;
    QPushButton* sharing_;
    QToolButton* more_;
    QLabel* comparing_;
    LaneStack* lanes_;
    EmitterId shown_;
    std::optional<Falloff> ghost_; ///< what the strips compare with
    QString ghostName_;
};

} // namespace stone
