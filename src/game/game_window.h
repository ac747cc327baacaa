// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/walker.h"
#include "game/level_sheet.h"
#include "game/teller.h"

#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

#include <memory>

class QComboBox;
class QLabel;
class QVBoxLayout;

namespace stone::game
{

/// A small game without a sound of its own: one walks through a level, opens doors, sends signals, puts things there, and all
/// of it is told to Stone Echo, which plays it.
class GameWindow : public QWidget
{
    Q_OBJECT

public:
    /// What it plays in must outlive it.
    GameWindow(const std::shared_ptr<const Project>& project, const Level& level, std::shared_ptr<const Ground> ground,
               const std::string& host, int port);

    const Pose& feet() const { return feet_; }

    /// Lets so much time pass. Its own clock does, too.
    void pass(double seconds);

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void keyReleaseEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

private:
    struct Put {
        std::string name;
        Pose from;
        double since_s = 0.0;
    };

    void addSignals(QVBoxLayout* box);
    void addValues(QVBoxLayout* box);
    void addThings(QVBoxLayout* box);
    void press(int key, bool down);
    void openDoor(const OpeningId& id);
    void putThing();
    void takeThing();
    Pose poseOf(const Put& put) const;
    void tellOfDoors(double seconds);
    void showAnswers();

    std::shared_ptr<const Project> project_;
    const Level& level_;
    std::shared_ptr<const Ground> ground_;
    Teller teller_;
    Walker walker_;
    WalkInput input_;
    Pose feet_;
    double now_s_ = 0.0;
    double hello_s_ = 0.0;
    std::map<OpeningId, double> doors_;  ///< how far they stand open, those that were touched
    std::map<OpeningId, double> wanted_; ///< and are to
    std::vector<Put> things_;
    int puts_ = 0;
    LevelSheet* sheet_;
    QComboBox* pattern_ = nullptr;
    QLabel* state_;
    QLabel* heard_;
    QTimer timer_;
    QElapsedTimer since_;
};

} // namespace stone::game
