// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/playback.h"

#include <QToolButton>

namespace stone
{

/// The kinds of rigs, in the document's order, for people.
QStringList rigKinds();

/// Says through which rig the level is heard, lets another be chosen or made, and leads to its setting up.
class RigButton : public QToolButton
{
    Q_OBJECT

public:
    RigButton(Session& session, QWidget* parent = nullptr);

    /// The next rig of the project; after the last one the first person.
    void next();

signals:
    /// The rig in use is to be set up.
    void setUpWanted();
    void compareWanted();

private:
    void rebuild();
    void choose(const RigId& id);
    void make(Rig::Kind kind);

    Session& session_;
};

} // namespace stone
