// SPDX-License-Identifier: GPL-3.0-or-later
#include "level.h"

namespace vellmoor
{

namespace
{

constexpr double wallHeight = 6.0;

void ground(MeshBuilder& m)
{
    m.part("ground");
    m.box("asphalt", {-30, -26, -0.5}, {90, 0, 0});
    m.box("tile", {0, 0, -0.5}, {52.4, 24, 0});
    m.box("asphalt", {-30, 0, -0.5}, {0, 24, 0});
    m.box("asphalt", {52.4, 0, -0.5}, {90, 24, 0});
    // Platform 1, with a hole where the stairs go down to the underpass (x -8 to -2).
    m.box("planks", {-30, 24, -1}, {-8, 26, 0});
    m.box("planks", {-30, 29, -1}, {-8, 30, 0});
    m.box("planks", {-30, 26, -1}, {-12, 29, 0});
    m.box("planks", {-12, 26, -1.4}, {-8, 29, 0});
    m.box("planks", {-8, 24, -1}, {-2, 26, 0});
    m.box("planks", {-8, 29, -1}, {-2, 30, 0});
    m.box("planks", {-2, 24, -1}, {90, 30, 0});
    // Platform 2 likewise.
    m.box("planks", {-30, 38, -1}, {-12, 44, 0});
    m.box("planks", {-12, 38, -1.4}, {-8, 44, 0});
    m.box("planks", {-8, 38, -1}, {-2, 40, 0});
    m.box("planks", {-8, 43, -1}, {-2, 44, 0});
    m.box("planks", {-2, 38, -1}, {90, 44, 0});
    m.box("asphalt", {-30, 44, -0.5}, {90, 60, 0});
}

void tracks(MeshBuilder& m)
{
    m.part("tracks");
    // The bed leaves out the roof of the underpass, which carries the rails there.
    m.box("ballast", {-30, 30, -1.5}, {-12.4, 38, -1});
    m.box("ballast", {-7.6, 30, -1.5}, {90, 38, -1});
    for (const double y : {32.0, 36.0}) {
        for (double x = -29.5; x < 90.0; x += 0.75) {
            m.box("timber", {x, y - 1.2, -1}, {x + 0.25, y + 1.2, -0.88});
        }
        for (const double rail : {-0.72, 0.72}) {
            m.box("iron", {-30, y + rail - 0.035, -0.88}, {90, y + rail + 0.035, -0.73});
        }
    }
}

void concourse(MeshBuilder& m)
{
    m.part("concourse");
    const auto wall = [&](Vec2 a, Vec2 b) { m.wall("brick", a, b, 0.4, 0, wallHeight); };
    const auto lintel = [&](Vec2 a, Vec2 b) { m.wall("brick", a, b, 0.4, 3, wallHeight); };
    // North, with two doors to platform 1.
    wall({-0.2, 24}, {11, 24});
    lintel({11, 24}, {15, 24});
    wall({15, 24}, {26, 24});
    lintel({26, 24}, {30, 24});
    wall({30, 24}, {36.2, 24});
    // South, with the arch to the forecourt.
    wall({-0.2, 0}, {14, 0});
    lintel({14, 0}, {19, 0});
    wall({19, 0}, {36.2, 0});
    // West, and east with the tea room's door.
    wall({0, 0.2}, {0, 23.8});
    wall({36, 0.2}, {36, 8});
    lintel({36, 8}, {36, 10});
    wall({36, 10}, {36, 23.8});
    for (double x = 6; x <= 30; x += 6) {
        for (const double y : {6.0, 18.0}) {
            if (x < 10 && y < 10) {
                continue; // the ticket office stands there
            }
            m.box("tile", {x - 0.4, y - 0.4, 0}, {x + 0.4, y + 0.4, 0.5});
            m.post("iron", {x, y}, 0.18, 0.5, wallHeight, 16);
        }
    }
    for (const double x : {20.0, 24.0}) {
        m.box("timber", {x, 11.6, 0.4}, {x + 2.4, 12.1, 0.48});
        m.box("iron", {x + 0.2, 11.65, 0}, {x + 0.3, 12.05, 0.4});
        m.box("iron", {x + 2.1, 11.65, 0}, {x + 2.2, 12.05, 0.4});
    }
    // The departure board hangs across the hall.
    m.box("iron", {21, 14.9, 3.4}, {27, 15.2, 5.2});
    m.beam("iron", {21.5, 15.05, 5.2}, {21.5, 15.05, 7.5}, 0.06);
    m.beam("iron", {26.5, 15.05, 5.2}, {26.5, 15.05, 7.5}, 0.06);
}

void glassRoof(MeshBuilder& m)
{
    m.part("glass roof");
    constexpr double ridge = 9.5;
    for (int bay = 0; bay <= 18; ++bay) {
        const double x = 2.0 * bay;
        m.beam("iron", {x, 0, wallHeight}, {x, 12, ridge}, 0.14);
        m.beam("iron", {x, 24, wallHeight}, {x, 12, ridge}, 0.14);
        m.beam("iron", {x, 0, wallHeight}, {x, 24, wallHeight}, 0.1);
        m.beam("iron", {x, 6, wallHeight}, {x, 12, ridge}, 0.08);
        m.beam("iron", {x, 18, wallHeight}, {x, 12, ridge}, 0.08);
        if (bay == 18) {
            break;
        }
        for (int pane = 0; pane < 4; ++pane) {
            const double a = pane / 4.0;
            const double b = (pane + 1) / 4.0;
            for (const double side : {0.0, 24.0}) {
                const double toward = side == 0.0 ? 12.0 : -12.0;
                const Vec3 low{x + 1.0, side + toward * a, wallHeight + (ridge - wallHeight) * a};
                const Vec3 high{x + 1.0, side + toward * b, wallHeight + (ridge - wallHeight) * b};
                // A pane is a flat box: a beam would be square across.
                m.wall("glass", {low.x - 0.95, (low.y + high.y) / 2}, {low.x + 0.95, (low.y + high.y) / 2}, 3.0,
                       (low.z + high.z) / 2 - 0.01, (low.z + high.z) / 2 + 0.01);
            }
        }
    }
}

void ticketOffice(MeshBuilder& m)
{
    m.part("ticket office");
    const auto wall = [&](Vec2 a, Vec2 b, double low, double high) { m.wall("timber", a, b, 0.2, low, high); };
    wall({0.2, 9}, {9.1, 9}, 0, 3);
    wall({9, 0.2}, {9, 3}, 0, 3);
    wall({9, 3}, {9, 4.2}, 2.2, 3);
    wall({9, 4.2}, {9, 6}, 0, 3);
    // The counter's window.
    wall({9, 6}, {9, 7.6}, 0, 1.1);
    wall({9, 6}, {9, 7.6}, 2.1, 3);
    wall({9, 7.6}, {9, 8.9}, 0, 3);
    m.box("plaster", {0.2, 0.2, 3}, {9.1, 9.1, 3.2});
    m.box("timber", {7.4, 5.8, 0.9}, {8.8, 7.8, 1.0});
}

void teaRoom(MeshBuilder& m)
{
    m.part("tea room");
    const auto wall = [&](Vec2 a, Vec2 b) { m.wall("brick", a, b, 0.4, 0, 3.5); };
    wall({36.2, 4}, {52.2, 4});
    wall({52, 4.2}, {52, 15.8});
    wall({36.2, 16}, {52.2, 16});
    m.box("plaster", {36.2, 3.8, 3.5}, {52.2, 16.2, 3.8});
    m.box("timber", {48.6, 6, 0}, {49.4, 14, 1.05});
    for (const double x : {39.5, 43.5}) {
        for (const double y : {6.5, 13.0}) {
            m.box("timber", {x - 0.5, y - 0.5, 0.7}, {x + 0.5, y + 0.5, 0.76});
            m.post("iron", {x, y}, 0.06, 0, 0.7, 8);
        }
    }
    m.post("iron", {49.0, 9.0}, 0.22, 1.05, 1.6, 16);
}

void platforms(MeshBuilder& m)
{
    m.part("platforms");
    for (double x = 2; x <= 86; x += 6) {
        m.post("iron", {x, 28.6}, 0.1, 0, 3.6, 10);
        m.beam("iron", {x, 24.2, 4.2}, {x, 29.4, 3.6}, 0.1);
    }
    m.box("iron", {0, 24.2, 4.2}, {88, 29.4, 4.24});
    // Platform 2's shelter, open to the rails.
    m.wall("timber", {24, 43.6}, {44, 43.6}, 0.15, 0, 2.8);
    m.wall("timber", {24, 41.4}, {24, 43.6}, 0.15, 0, 2.8);
    m.wall("timber", {44, 41.4}, {44, 43.6}, 0.15, 0, 2.8);
    m.box("iron", {23.6, 40.8, 2.8}, {44.4, 43.9, 2.9});
    for (double x = -28; x < 90; x += 4) {
        m.post("iron", {x, 44.2}, 0.05, 0, 1.2, 8);
    }
    m.beam("iron", {-28, 44.2, 1.15}, {90, 44.2, 1.15}, 0.05);
    for (const double y : {24.8, 43.4}) {
        for (double x = 8; x < 88; x += 16) {
            m.post("iron", {x, y}, 0.07, 0, 4.0, 8);
            m.box("glass", {x - 0.2, y - 0.2, 3.5}, {x + 0.2, y + 0.2, 3.9});
        }
    }
    // The poles that carry the telegraph wires.
    for (double x = -26; x < 90; x += 28) {
        m.post("timber", {x, 46}, 0.15, 0, 8, 10);
        m.beam("timber", {x, 45, 7.4}, {x, 47, 7.4}, 0.12);
    }
}

void underpass(MeshBuilder& m)
{
    m.part("underpass");
    constexpr double floor = -4.0;
    constexpr double head = -1.4;
    m.box("tile", {-12.4, 25.6, floor - 0.3}, {-7.6, 43.4, floor});
    m.box("tile", {-12.4, 25.6, floor}, {-12, 43.4, head});
    // East wall, open where the stairs come in.
    m.box("tile", {-8, 29, floor}, {-7.6, 40, head});
    m.box("tile", {-12.4, 25.6, floor}, {-2, 26, 0});
    m.box("tile", {-12.4, 43, floor}, {-2, 43.4, 0});
    m.box("tile", {-12.4, 29, head}, {-7.6, 40, head + 0.4});
    for (const double y : {26.0, 40.0}) {
        m.stairs("tile", {-8, y, floor}, 3, -floor, 6, floor - 0.3);
    }
    m.box("tile", {-8, 29, floor}, {-2, 29.2, 0});
    m.box("tile", {-8, 39.8, floor}, {-2, 40, 0});
    // Railings round the holes in the platforms.
    for (const double y : {25.95, 29.05, 39.95, 43.05}) {
        for (double x = -8; x <= -2; x += 1.0) {
            m.post("iron", {x, y}, 0.03, 0, 1.0, 6);
        }
        m.beam("iron", {-8, y, 1.0}, {-2, y, 1.0}, 0.05);
    }
    for (const double y : {26.0, 40.0}) {
        m.beam("iron", {-8, y, 1.0}, {-8, y + 3, 1.0}, 0.05);
        for (double along = 0.5; along < 3.0; along += 0.5) {
            m.post("iron", {-8, y + along}, 0.03, 0, 1.0, 6);
        }
    }
}

void footbridge(MeshBuilder& m)
{
    m.part("footbridge");
    constexpr double deck = 6.0;
    m.box("planks", {72, 25.5, deck - 0.2}, {75, 42.5, deck});
    for (const double x : {72.05, 74.95}) {
        m.box("iron", {x - 0.04, 25.5, deck + 1.05}, {x + 0.04, 42.5, deck + 1.12});
        for (double y = 25.5; y <= 42.5; y += 0.5) {
            const bool stairHead = x < 73 && (y < 28 || y > 40);
            if (!stairHead) {
                m.post("iron", {x, y}, 0.025, deck, deck + 1.05, 6);
            }
        }
        for (const double y : {26.0, 29.6, 38.4, 42.0}) {
            m.post("iron", {x, y}, 0.12, -0.01, deck - 0.2, 10);
        }
    }
    for (const double y : {25.5, 40.0}) {
        m.stairs("iron", {60, y, 0}, 2.5, deck, 12, 0);
    }
}

void outbuildings(MeshBuilder& m)
{
    m.part("signal box");
    const auto storey = [&](const std::string& material, double low, double high) {
        m.wall(material, {62, 48}, {68, 48}, 0.3, low, high);
        m.wall(material, {68, 48.15}, {68, 53.85}, 0.3, low, high);
        m.wall(material, {62, 54}, {68, 54}, 0.3, low, high);
        m.wall(material, {62, 48.15}, {62, 53.85}, 0.3, low, high);
    };
    storey("brick", 0, 3);
    m.box("planks", {61.8, 47.8, 3}, {68.2, 54.2, 3.2});
    storey("glass", 3.2, 5.4);
    m.box("timber", {61.5, 47.5, 5.4}, {68.5, 54.5, 5.6});
    for (int lever = 0; lever < 12; ++lever) {
        m.beam("iron", {63.2 + 0.3 * lever, 49.2, 3.2}, {63.2 + 0.3 * lever, 49.0, 4.4}, 0.05);
    }

    m.part("goods shed");
    m.wall("planks", {58, -18}, {82, -18}, 0.25, 0, 5);
    m.wall("planks", {82, -17.8}, {82, -4.2}, 0.25, 0, 5);
    m.wall("planks", {58, -17.8}, {58, -4.2}, 0.25, 0, 5);
    m.wall("planks", {58, -4}, {67, -4}, 0.25, 0, 5);
    m.wall("planks", {67, -4}, {73, -4}, 0.25, 4, 5);
    m.wall("planks", {73, -4}, {82, -4}, 0.25, 0, 5);
    m.box("iron", {57.5, -18.5, 5}, {82.5, -3.5, 5.1});
    for (double x = 61; x < 82; x += 4) {
        m.box("timber", {x, -17, 0}, {x + 1.6, -15.4, 1.2});
    }
}

void namedPlaces(MeshBuilder& m)
{
    m.place("departure-board", {24, 15, 4.2});
    m.place("tea-urn", {49, 9, 1.4});
    m.place("ticket-lamp", {4.5, 4.5, 2.6});
    m.place("station-clock", {18, 23.6, 4});
    m.place("speaking-horn", {16, 25, 3.6});
    m.place("underpass-drip", {-10, 34, -1.6});
    for (int lamp = 0; lamp < 5; ++lamp) {
        m.place("platform-lamp-" + std::to_string(lamp + 1), {8.0 + 16.0 * lamp, 24.8, 3.7});
    }
}

} // namespace

MeshBuilder buildLevel()
{
    MeshBuilder m;
    ground(m);
    tracks(m);
    concourse(m);
    glassRoof(m);
    ticketOffice(m);
    teaRoom(m);
    platforms(m);
    underpass(m);
    footbridge(m);
    outbuildings(m);
    namedPlaces(m);
    return m;
}

} // namespace vellmoor
