// SPDX-License-Identifier: MPL-2.0
#pragma once

#include "geometry/shape.h"
#include "project/id.h"
#include "project/lane.h"

#include <optional>
#include <string>
#include <vector>

/// What makes up an ambience: areas, sprinkles, roamers, steps, things that ride, zones. Part of the document.
namespace stone
{

/// How an emitter fills a shape. The shape's origin is the emitter's place, turned by its heading. The emitter's near
/// range is how far outside it begins to open up.
struct Area {
    Shape shape;
    double glide_m_s = 30.0;  ///< how fast the place it sounds from may move; > 0
    bool widens = true;       ///< it sounds as wide as it is seen from the ears
    bool sharesVoice = false; ///< with all others of its sound that do: one voice, from the nearest
    Extras extras{};

    bool operator==(const Area&) const = default;
};

/// Irregular one-shots. Times between starts are either evenly distributed between the least and the most, or those of a
/// natural rate: the least and on top of it an exponential time (a Poisson process with a dead time), the mean of both
/// being halfway between least and most. They are counted from start to start, or with `waitsForTail` from the end of one
/// to the start of the next.
struct Sprinkling {
    enum class Where {
        ring,  ///< around the player, by distance and angles
        box,   ///< around the player, by metres to each side
        shape, ///< inside a shape of its own
        zone   ///< inside its zone
    };

    double least_s = 4.0; ///< > 0
    double most_s = 12.0; ///< >= least
    bool naturalRate = false;
    bool waitsForTail = false;
    int atOnce = 2;          ///< most that sound together; 1 to 32
    int inAll = 0;           ///< most starts; 0: no end
    double skipChance = 0.0; ///< share of starts that stay silent

    Where where = Where::ring;
    double nearest_m = 5.0;
    double farthest_m = 20.0;
    double fromAngle_deg = -180.0; ///< clockwise from where the player faces
    double toAngle_deg = 180.0;    ///< >= from
    double lowest_deg = 0.0;       ///< elevation
    double highest_deg = 20.0;     ///< >= lowest
    Vec3 low_m{-10.0, -10.0, 0.0}; ///< of the box: aside (right), ahead, up from the player's feet
    Vec3 high_m{10.0, 10.0, 4.0};
    Shape shape = Ball{8.0}; ///< about the emitter's place
    bool evenly = true;      ///< directions take turns instead of clustering
    bool follows = false;    ///< what has started goes along with the player
    bool insideZone = true;  ///< never outside its zone
    bool outsideSolids = true;

    SoundId answer;             ///< empty: none. The same sound: never with the call's own variation
    double answerLeast_s = 1.0; ///< after the call's start; > 0
    double answerMost_s = 3.0;
    double answerChance = 1.0;
    Extras extras{};

    bool operator==(const Sprinkling&) const = default;
};

/// A place on a Roamer's way.
struct Stop {
    Vec3 at{0.0};
    std::optional<double> wait_s;  ///< none: the Roamer's own
    std::optional<double> leg_s{}; ///< in which it is reached from the one before; none: as the Roamer goes; > 0
    Extras extras{};

    bool operator==(const Stop&) const = default;
};

/// How an emitter moves along stops.
struct Roaming {
    enum class Order { inTurn, thereAndBack, shuffled };
    enum class RoundEnd {
        travelsBack, ///< to where the next round begins
        startsOver   ///< is there at once; unheard only if its sound stops between rounds
    };

    std::vector<Stop> stops;
    Order order = Order::inTurn;
    bool byTime = false;    ///< each leg takes `leg_s` instead of being gone at a speed
    double speed_m_s = 1.4; ///< > 0
    double leg_s = 5.0;     ///< > 0
    double ease = 0.3;      ///< share of a leg's time for setting off, and as much for slowing down; 0 to 0.5
    double wait_s = 2.0;    ///< at each stop
    RoundEnd roundEnd = RoundEnd::travelsBack;
    double pause_s = 0.0;     ///< between rounds
    double period_s = 0.0;    ///< from the beginning of one round to that of the next, if it takes no longer; 0: none
    int rounds = 0;           ///< 0: no end
    bool aroundWalls = false; ///< finds its way on the floor instead of going straight
    bool onlyMoving = false;  ///< its sound is heard only on the way
    SoundId arriving;         ///< sounds at each stop; empty: none
    double arrivingAfter_s = 0.0;
    double arrivingFor_s = 0.0; ///< 0: as long as it is
    double arriving_db = 0.0;
    Extras extras{};

    bool operator==(const Roaming&) const = default;
};

/// The sound of walking on a surface.
struct SurfaceSound {
    std::string surface; ///< name of the level's material
    SoundId sound;
    double level_db = 0.0;

    bool operator==(const SurfaceSound&) const = default;
};

/// The steps of the walking character. The emitter's own sound is for all other surfaces.
struct Stepping {
    std::vector<SurfaceSound> surfaces;
    Curve stride{{0.5, 0.45}, {1.4, 0.75}, {4.0, 1.3}, {8.0, 1.8}}; ///< x: metres per second, y: metres from step to step
    Extras extras{};

    bool operator==(const Stepping&) const = default;
};

/// A beat for whoever does not see: it quickens as an edge of the floor gets nearer, and is heard from there. Of all that is
/// near in the ways that it looks, the nearest counts.
struct Pulsing {
    enum class Looks {
        ahead, ///< the way that the character faces
        sides, ///< that, and to the left and the right
        all    ///< all round
    };

    bool drops = true;
    bool walls = true;
    bool water = true;
    bool kerbs = false;
    bool steps = false;
    Looks looks = Looks::sides;
    double aside_deg = 15.0; ///< what lies so far to either side of a way counts for it; all round: of any; 1 to 80
    double within_m = 6.0;   ///< farther away there is no beat; > 0
    double margin_m = 0.3;   ///< another one counts when it is nearer by so much; >= 0
    double nearest_s = 0.12; ///< from beat to beat at an edge, where the falloff has no lane for it; > 0
    double farthest_s = 1.0; ///< and at `within_m`; straight between them
    SoundId dropSound;       ///< of each kind; empty: the emitter's own
    SoundId wallSound;
    SoundId waterSound;
    SoundId kerbSound;
    SoundId stepSound;
    Extras extras{};

    bool operator==(const Pulsing&) const = default;
};

/// What something is carried by. Its place is then an offset: aside, ahead and up as the carrier faces if it turns along,
/// else east, north and up.
struct Riding {
    enum class On { nothing, character, roamer, node, game };

    On on = On::nothing;
    EmitterId roamer;
    std::string node; ///< of the level's geometry
    bool turnsAlong = false;
    std::string thing{}; ///< of a game that is followed, by its name there; until it is told of, `at` is a place

    bool operator==(const Riding&) const = default;
};

/// A level's lane over depth that is full at 0 m and silent at the depth.
Lane fadeOverDepth(double silentAt_m);

/// A region. What belongs to it sounds inside; the things of its parent fade with the depth into it.
struct Zone {
    ZoneId id;
    std::string name;
    Vec3 at{0.0};
    double heading_deg = 0.0;
    Shape shape = Prism{};
    double margin_m = 2.0;       ///< so far outside its bed begins to open up; >= 0
    std::vector<double> margins; ///< by side of the shape, see Solid; those that are missing: margin_m
    ZoneId parent;
    std::vector<Lane> fades{fadeOverDepth(5.0)}; ///< over the depth in it, for what belongs to its parents
    bool holdsSprinkles = true;                  ///< no sprinkles of its parents start while one is in it
    Riding riding;
    Extras extras{};

    bool operator==(const Zone&) const = default;
};

} // namespace stone
