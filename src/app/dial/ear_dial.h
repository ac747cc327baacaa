#pragma once

#include "app/session/playback.h"

#include <QWidget>

namespace stone
{

/// A round picture of what reaches the ears: from which direction (ahead is up), how loud (length) and how wide
/// (a point is narrow, something that surrounds fills the ring).
class EarDial : public QWidget
{
    Q_OBJECT

public:
    EarDial(Session& session, Playback& playback, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {158, 158}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    bool event(QEvent* event) override;

private:
    QPainterPath petal(const Heard& heard, double radius) const;
    std::vector<Heard> heardNow() const;

    Session& session_;
    Playback& playback_;
};

} // namespace stone
