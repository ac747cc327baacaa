// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/bench/pages.h"

#include "app/ambience/plant_page.h"
#include "app/ambience/zone_page.h"
#include "app/bench/emitter_page.h"
#include "app/bench/empty_page.h"
#include "app/ears/rig_page.h"
#include "app/gaze/gaze_page.h"
#include "app/levels/level_page.h"
#include "app/rooms/opening_page.h"
#include "app/rooms/room_page.h"
#include "app/sounds/sound_page.h"
#include "app/walks/walk_page.h"

namespace stone
{

std::vector<Page*> makePages(Session& session, Playback& playback)
{
    return {new RoomPage(session, playback),  new OpeningPage(session, playback), new ZonePage(session, playback),
            new PlantPage(session, playback), new WalkPage(session, playback),    new EmitterPage(session, playback),
            new SoundPage(session, playback), new RigPage(session, playback),     new GazePage(session, playback),
            new LevelPage(session, playback), new EmptyPage(session, playback)};
}

} // namespace stone
