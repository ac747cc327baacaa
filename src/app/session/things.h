// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "project/document.h"
#include "project/unlike_names.h"

#include <QString>

namespace stone
{

/// What the window knows of a kind of thing that stands in a list of a level and can be selected: which list, what
/// people call one, and how it is carried elsewhere.
template <class Thing> struct Kind;

template <> struct Kind<Emitter> {
    static constexpr auto list = &Level::emitters;
    static constexpr const char* called = "emitter";
    static void carry(Emitter& emitter, const Vec3& by)
    {
        emitter.at += by;
        for (Stop& stop : emitter.roaming.stops) {
            stop.at += by;
        }
    }
};

template <> struct Kind<Zone> {
    static constexpr auto list = &Level::zones;
    static constexpr const char* called = "zone";
    static void carry(Zone& zone, const Vec3& by) { zone.at += by; }
};

template <> struct Kind<Room> {
    static constexpr auto list = &Level::rooms;
    static constexpr const char* called = "room";
    static void carry(Room& room, const Vec3& by) { room.at += by; }
};

template <> struct Kind<Opening> {
    static constexpr auto list = &Level::openings;
    static constexpr const char* called = "opening";
    static void carry(Opening& opening, const Vec3& by)
    {
        opening.from += Vec2(by);
        opening.to += Vec2(by);
        opening.sill_m += by.z;
        opening.head_m += by.z;
    }
};

template <> struct Kind<Walk> {
    static constexpr auto list = &Level::walks;
    static constexpr const char* called = "walk";
    static void carry(Walk& walk, const Vec3& by)
    {
        for (WalkPoint& point : walk.points) {
            point.at += by;
        }
    }
};

template <> struct Kind<Plant> {
    static constexpr auto list = &Level::plants;
    static constexpr const char* called = "plant rule";
    static void carry(Plant& plant, const Vec3& by)
    {
        plant.at += by;
        for (OddCopy& exception : plant.exceptions) {
            exception.at += by;
        }
    }
};

/// "zone" or, at the beginning of a sentence, "Zone".
template <class Thing> QString calledOne(bool first = false)
{
    QString called = QString::fromLatin1(Kind<Thing>::called);
    if (first) {
        called[0] = called[0].toUpper();
    }
    return called;
}

} // namespace stone
