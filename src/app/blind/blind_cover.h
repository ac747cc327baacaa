#pragma once

#include "app/blind/blind_walk.h"

#include <QWidget>

namespace stone
{

/// What is shown on a blind walk instead of the level: a compass, and nothing else that could lead.
class BlindCover : public QWidget
{
    Q_OBJECT

public:
    BlindCover(BlindWalk& walk, Playback& playback, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    BlindWalk& walk_;
    Playback& playback_;
};

} // namespace stone
