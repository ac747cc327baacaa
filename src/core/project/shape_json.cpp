// SPDX-License-Identifier: MPL-2.0
#include "project/shape_json.h"

#include "project/lane_json.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

constexpr const char* shapeKinds[] = {"box", "sphere", "capsule", "prism", "line", "mesh"};
constexpr std::size_t mostCorners = 10'000;

Json list(const Vec3& p)
{
    return Json::array({p.x, p.y, p.z});
}

double least(const Vec3& p)
{
    return std::min({p.x, p.y, p.z});
}

template <class Points> void checkCount(const ObjectReader& reader, const Points& points, std::size_t least)
{
    if (points.size() < least || points.size() > mostCorners) {
        reader.fail("points", "this shape needs " + std::to_string(least) + " to " + std::to_string(mostCorners) + " points");
    }
}

Hull readHull(ObjectReader& reader)
{
    Hull hull;
    hull.node = reader.text("node");
    hull.points = reader.places("points");
    for (const Vec3& corners : reader.places("triangles")) {
        const auto known = [&](double index) {
            return index >= 0.0 && index < static_cast<double>(hull.points.size()) && index == std::floor(index);
        };
        if (!known(corners.x) || !known(corners.y) || !known(corners.z)) {
            reader.fail("triangles", "a triangle names a point that is not in \"points\"; count from 0");
        }
        hull.triangles.push_back({static_cast<int>(corners.x), static_cast<int>(corners.y), static_cast<int>(corners.z)});
    }
    if (hull.node.empty() && hull.triangles.empty()) {
        reader.fail("", "a mesh needs the \"node\" of the level, or \"points\" and \"triangles\" of its own");
    }
    return hull;
}

} // namespace

Shape readShape(ObjectReader reader)
{
    Shape shape;
    switch (reader.word("is", 0, shapeKinds)) {
    case 0: {
        Box box;
        box.size_m = reader.place("size_m", box.size_m);
        if (least(box.size_m) < 0.0) {
            reader.fail("size_m", "a box has no sides shorter than 0");
        }
        shape = box;
        break;
    }
    case 1: shape = Ball{reader.number("radius_m", Ball{}.radius_m, ranges::length)}; break;
    case 2: {
        const Capsule usual;
        shape = Capsule{reader.place("from", usual.from), reader.place("to", usual.to),
                        reader.number("radius_m", usual.radius_m, ranges::length)};
        break;
    }
    case 3: {
        Prism prism;
        if (reader.has("points")) {
            prism.corners = reader.planes("points");
        }
        checkCount(reader, prism.corners, 3);
        prism.height_m = reader.number("height_m", prism.height_m, ranges::length);
        prism.standing = reader.flag("standing", prism.standing);
        shape = std::move(prism);
        break;
    }
    case 4: {
        Ribbon ribbon;
        if (reader.has("points")) {
            ribbon.points = reader.places("points");
        }
        checkCount(reader, ribbon.points, 2);
        ribbon.width_m = reader.number("width_m", ribbon.width_m, ranges::length);
        ribbon.closed = reader.flag("closed", false);
        shape = std::move(ribbon);
        break;
    }
    default: shape = readHull(reader); break;
    }
    if (!reader.rest().empty()) {
        reader.fail("", std::string("a shape has keys here that a ") + shapeKinds[shape.index()] +
                            " does not know; take them out, see docs/project-format.md");
    }
    return shape;
}

Json toJson(const Shape& shape)
{
    Json json{{"is", shapeKinds[shape.index()]}};
    if (const auto* box = std::get_if<Box>(&shape)) {
        json["size_m"] = list(box->size_m);
    } else if (const auto* ball = std::get_if<Ball>(&shape)) {
        json["radius_m"] = ball->radius_m;
    } else if (const auto* capsule = std::get_if<Capsule>(&shape)) {
        json["from"] = list(capsule->from);
        json["to"] = list(capsule->to);
        json["radius_m"] = capsule->radius_m;
    } else if (const auto* prism = std::get_if<Prism>(&shape)) {
        json["points"] = Json::array();
        for (const Vec2& corner : prism->corners) {
            json["points"].push_back(Json::array({corner.x, corner.y}));
        }
        json["height_m"] = prism->height_m;
        addUnless(json, "standing", prism->standing, false);
    } else if (const auto* ribbon = std::get_if<Ribbon>(&shape)) {
        json["points"] = Json::array();
        for (const Vec3& point : ribbon->points) {
            json["points"].push_back(list(point));
        }
        json["width_m"] = ribbon->width_m;
        addUnless(json, "closed", ribbon->closed, false);
    } else {
        const Hull& hull = std::get<Hull>(shape);
        addUnless(json, "node", hull.node, std::string{});
        for (const Vec3& point : hull.points) {
            json["points"].push_back(list(point));
        }
        for (const Hull::Triangle& triangle : hull.triangles) {
            json["triangles"].push_back(Json::array({triangle.a, triangle.b, triangle.c}));
        }
    }
    return json;
}

} // namespace stone
