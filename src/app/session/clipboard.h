// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session/session.h"

#include <optional>
#include <vector>

namespace stone
{

/// Puts what is selected on the clipboard: as text, a document of its own with all that it needs, so that it goes to another
/// level, another window, or into a message. False where nothing is selected.
bool copySelected(Session& session);

/// What a paste left open: sounds that came without their files, and the folder in which those were named.
struct Unbrought {
    std::vector<SoundId> sounds;
    QString folder;
};

/// Puts what is on the clipboard into the level that is shown, as one step of the history, and selects it. `at`: where its
/// middle goes on the level's sheet; nothing: where it was. What is no such text is said by Session::failed().
Unbrought paste(Session& session, const std::optional<Vec2>& at);

/// Copies the files of sounds that were pasted into the project. For whoever was asked and agreed: the folder's name is from
/// the clipboard.
void bringFiles(Session& session, const Unbrought& left);

} // namespace stone
