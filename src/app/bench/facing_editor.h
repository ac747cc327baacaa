// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/forms/page.h"
#include "app/lanes/lane_stack.h"
#include "app/session/playback.h"

#include <QComboBox>
#include <QPushButton>

namespace stone
{

/// The emitter seen from above with its lobe: which way it faces and how it sounds all round. Its front is turned by
/// dragging the arrow; dragging the ears carries them round it and nearer in one gesture, heard until let go.
class LobeDial : public QWidget
{
    Q_OBJECT

public:
    LobeDial(Session& session, Playback& playback, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {150, 150}; }

    QPointF frontPlace() const;
    QPointF earsPlace() const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

private:
    enum class Grip { none, front, ears };

    double radius() const { return std::min(width(), height()) / 2.0 - 14.0; }
    QPointF centre() const { return {width() / 2.0, height() / 2.0}; }
    QPointF at(double heading_deg, double r) const;
    double metresToPixels(double metres) const;

    Session& session_;
    Playback& playback_;
    Grip grip_ = Grip::none;
    double range_m_ = 10.0; ///< what the rim stands for; held during a drag
    int gestures_ = 0;
};

/// Where an emitter faces, and its lanes over the angle off its front, the direction round the ears, and speed.
class FacingEditor : public Page
{
    Q_OBJECT

public:
    FacingEditor(Session& session, Playback& playback, QWidget* parent = nullptr);
    void refresh() override;
    void follow() override;

private:
    LaneInput input() const;
    GameValueId value() const;
    void chooseInput();
    void offerInputs(const Emitter& emitter);
    LaneStack::Source source();
    void listenAt(double x);

    Session& session_;
    Playback& playback_;
    LobeDial* dial_;
    NumberField* heading_;
    NumberField* tilt_;
    QPushButton* toEars_;
    QComboBox* over_;
    QWidget* top_; ///< dial, heading and tilt, of what faces somewhere
    LaneStack* lanes_;
};

} // namespace stone
