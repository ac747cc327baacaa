// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QFutureWatcher>
#include <QMenu>
#include <QToolButton>

namespace stone
{

class NumberField;

/// How the sound comes out: headphones (and through whose ears) or loudspeakers, and the monitor's level. None of it is
/// part of the project.
class OutputMenu : public QToolButton
{
    Q_OBJECT

public:
    OutputMenu(Playback& playback, QWidget* parent = nullptr);
    ~OutputMenu() override;

    /// Reads measured ears off the window's thread and renders headphones through them. Failure is said by failed().
    void useEars(const QString& sofaFile);
    /// What comes out from now on, and the next time the program runs.
    void use(Layout layout);

signals:
    /// One line for the person.
    void failed(const QString& message);

private:
    struct Ears {
        SharedHead head;
        QString file; ///< empty when it could not be read
        QString error;
    };

    void fill();
    void refresh();
    void earsRead();

    Playback& playback_;
    NumberField* monitor_;
    QFutureWatcher<Ears> reading_;
};

} // namespace stone
