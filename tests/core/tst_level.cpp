// SPDX-License-Identifier: GPL-3.0-or-later
#include "geometry/polygon.h"
#include "level/fit_shape.h"
#include "level/floor_plan.h"
#include "level/level_files.h"
#include "level/mesh_import.h"
#include "level/plan_cut.h"
#include "level/section_cut.h"
#include "level/walk_surface.h"
#include "project/file_error.h"
#include "project/read.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"
#include "world/carriage.h"

#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <random>

#include <sys/stat.h>

namespace tst_level
{

using namespace stone;

namespace
{

void addBox(Mesh& mesh, const Vec3& l, const Vec3& h, bool insideOut = false)
{
    const auto first = static_cast<std::uint32_t>(mesh.points.size());
    for (int i = 0; i < 8; ++i) {
        mesh.points.push_back({i & 1 ? h.x : l.x, i & 2 ? h.y : l.y, i & 4 ? h.z : l.z});
    }
    for (const auto& face : {std::array{0, 2, 3, 1}, std::array{4, 5, 7, 6}, std::array{0, 1, 5, 4}, std::array{2, 6, 7, 3},
                             std::array{0, 4, 6, 2}, std::array{1, 3, 7, 5}}) {
        for (const auto& corners : {std::array{face[0], face[1], face[2]}, std::array{face[0], face[2], face[3]}}) {
            Mesh::Triangle triangle{{first + corners[0], first + corners[1], first + corners[2]}, 0};
            if (insideOut) {
                std::swap(triangle.corners[1], triangle.corners[2]);
            }
            mesh.triangles.push_back(triangle);
        }
    }
}

double areaOf(const Outline& outline)
{
    double doubled = 0.0;
    const auto& p = outline.points;
    for (std::size_t i = 0, last = p.size() - 1; i < p.size(); last = i++) {
        doubled += p[last].x * p[i].y - p[i].x * p[last].y;
    }
    return doubled / 2.0;
}

/// A triangle in a .gltf whose parts can be damaged one at a time.
std::string gltf(const std::string& nodes, const std::string& uri, const std::string& index = "2",
                 const std::string& count = "3")
{
    QString text = R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":NODES,
        "materials":[{"name":"brick"}],
        "meshes":[{"primitives":[{"attributes":{"POSITION":0},"indices":1,"material":0}]}],
        "accessors":[{"bufferView":0,"componentType":5126,"count":COUNT,"type":"VEC3"},
            {"bufferView":1,"componentType":5125,"count":3,"type":"SCALAR"}],
        "bufferViews":[{"buffer":0,"byteOffset":0,"byteLength":36},{"buffer":0,"byteOffset":36,"byteLength":12}],
        "buffers":[{"byteLength":48,"uri":"URI"}],"extras":INDEX})";
    for (const auto& [place, filled] : {std::pair{"NODES", nodes}, {"COUNT", count}, {"URI", uri}, {"INDEX", index}}) {
        text.replace(place, QString::fromStdString(filled));
    }
    return text.toStdString();
}

void writeTriangle(const std::filesystem::path& file, std::uint32_t lastIndex = 2, float x = 1.0F)
{
    const float points[9] = {0, 0, 0, x, 0, 0, 0, 1, 0};
    const std::uint32_t indices[3] = {0, 1, lastIndex};
    std::string bytes(48, '\0');
    std::memcpy(bytes.data(), points, 36);
    std::memcpy(bytes.data() + 36, indices, 12);
    fixture::writeText(file, bytes);
}

} // namespace

class TestLevel : public QObject
{
    Q_OBJECT

    QTemporaryDir folder_;

    std::filesystem::path path(const char* name) const { return folder_.filePath(name).toStdString(); }

    QString failure(const char* name) const
    {
        try {
            importMesh(path(name), {});
        } catch (const FileError& error) {
            return error.what();
        }
        return {};
    }

private slots:
    void gltfNodesAreTransformedAndTurnedUpright()
    {
        writeTriangle(path("t.bin"));
        // The parent moves 10 along glTF's x and stretches twice; the child turns a quarter round y.
        fixture::writeText(path("t.gltf"), gltf(R"([{"name":"yard","translation":[10,0,0],"scale":[2,2,2],"children":[1]},
            {"name":"gate","mesh":0,"rotation":[0,0.7071067811865476,0,0.7071067811865476]}])",
                                                "t.bin"));
        const Mesh mesh = importMesh(path("t.gltf"), {.metresPerUnit = 0.5, .zUp = false});
        QCOMPARE(mesh.triangles.size(), std::size_t{1});
        QCOMPARE(mesh.materials[mesh.triangles[0].material], std::string("brick"));
        // Point (1,0,0) turned is (0,0,-1), stretched and moved (10,0,-2), upright (10,2,0), at half a metre a unit (5,1,0).
        QVERIFY(glm::length(mesh.points[1] - Vec3{5, 1, 0}) < 1e-6);
        QVERIFY(glm::length(mesh.points[2] - Vec3{5, 0, 1}) < 1e-6);
        QCOMPARE(mesh.nodes.size(), std::size_t{2});
        QCOMPARE(mesh.nodes[1].name, std::string("gate"));
    }

    /// They play no part in what is heard: neither a pipe, which would be waited for, nor what lies elsewhere is touched.
    void picturesOfALevelAreNotOpened()
    {
        writeTriangle(path("seen.bin"));
        std::string text = gltf(R"([{"mesh":0}])", "seen.bin");
        text.insert(1, R"("images":[{"uri":"pipe%20one.png"},{"uri":"../elsewhere.png"},{"uri":"absent.png"}],)");
        fixture::writeText(path("seen.gltf"), text);
        QCOMPARE(::mkfifo(path("pipe one.png").c_str(), 0600), 0);
        QCOMPARE(importMesh(path("seen.gltf"), {}).triangles.size(), std::size_t{1});
        QCOMPARE(filesBeside(path("seen.gltf")), std::vector<std::string>{"seen.bin"});
        QCOMPARE(picturesOfGltf(text), (std::vector<std::string>{"pipe one.png", "../elsewhere.png", "absent.png"}));
        QVERIFY(picturesOfGltf(R"({"images":7})").empty() && picturesOfGltf("[1]").empty() && picturesOfGltf("{").empty());
    }

    void objFilesAreRead()
    {
        fixture::writeText(path("m.mtl"), "newmtl tile\n");
        fixture::writeText(path("m.obj"), "mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nusemtl tile\nf 1 2 3 4\n");
        const Mesh mesh = importMesh(path("m.obj"), {.metresPerUnit = 2.0, .zUp = true});
        QCOMPARE(mesh.triangles.size(), std::size_t{2});
        QCOMPARE(mesh.materials[mesh.triangles[1].material], std::string("tile"));
        QCOMPARE(mesh.bounds()[1], (Vec3{2, 2, 0}));
        QCOMPARE(importMesh(path("m.obj"), {}).bounds()[1], (Vec3{1, 0, 1}));
    }

    void damagedLevelsSayWhatIsWrong()
    {
        writeTriangle(path("ok.bin"));
        writeTriangle(path("index.bin"), 7);
        writeTriangle(path("nan.bin"), 2, std::nanf(""));
        const std::string node = R"([{"mesh":0}])";
        fixture::writeText(path("cycle.gltf"), gltf(R"([{"mesh":0,"children":[1]},{"children":[0]}])", "ok.bin"));
        fixture::writeText(path("self.gltf"), gltf(R"([{"children":[0]}])", "ok.bin"));
        fixture::writeText(path("index.gltf"), gltf(node, "index.bin"));
        fixture::writeText(path("nan.gltf"), gltf(node, "nan.bin"));
        fixture::writeText(path("mesh.gltf"), gltf(R"([{"mesh":99}])", "ok.bin"));
        fixture::writeText(path("count.gltf"), gltf(node, "ok.bin", "2", "4000000000"));
        fixture::writeText(path("out.gltf"), gltf(node, "../../etc/hostname"));
        fixture::writeText(path("absent.gltf"), gltf(node, "absent.bin"));
        fixture::writeText(path("huge.bin"), "");
        std::filesystem::resize_file(path("huge.bin"), (1ULL << 30U) + 1); // takes no room on the disk
        fixture::writeText(path("huge.gltf"), gltf(node, "huge.bin"));
        fixture::writeText(path("empty.glb"), "");
        fixture::writeText(path("short.glb"), std::string("glTF\2\0\0\0", 8));
        fixture::writeText(path("bad.obj"), "v 0 0 0\nf 1 2 3\n");
        const std::pair<const char*, const char*> cases[] = {
            {"cycle.gltf", "ancestor"}, {"self.gltf", "ancestor"},
            {"index.gltf", "index 7"},  {"nan.gltf", "not a number"},
            {"mesh.gltf", "mesh 99"},   {"count.gltf", "beyond its buffer"},
            {"out.gltf", "outside"},    {"absent.gltf", "absent.bin, which it names, is not beside it"},
            {"empty.glb", "0 bytes"},   {"short.glb", "not a readable glTF"},
            {"bad.obj", "bad.obj"},     {"none.glb", "cannot be read"},
            {"huge.gltf", "1 GiB"},
        };
        for (const auto& [name, expected] : cases) {
            const QString message = failure(name);
            QVERIFY2(message.contains(expected) && !message.contains('\n'), qPrintable(QString(name) + ": " + message));
        }
    }

    void damagedBytesNeverCrash()
    {
        QFile demo(QString(DEMO) + "/level/vellmoor-halt.glb");
        QVERIFY(demo.open(QIODevice::ReadOnly));
        QByteArray whole = demo.readAll();
        std::mt19937 random(12);
        const std::string objText =
            "mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nvn 0 0 1\nvt 0 0\ng a\nusemtl b\nf 1/1/1 2/1/1 3/1/1\nf -1 -2 -3\n";
        int refused = 0;
        for (int round = 0; round < 400; ++round) {
            // The header and the JSON in front are where damage leads somewhere.
            QByteArray bytes = whole;
            for (int i = 0; i < 6; ++i) {
                bytes[static_cast<qsizetype>(random() % 12'000)] = static_cast<char>(random());
            }
            if (round % 7 == 0) {
                bytes.truncate(static_cast<qsizetype>(random() % bytes.size()));
            }
            fixture::writeText(path("fuzz.glb"), bytes.toStdString());
            refused += failure("fuzz.glb").isEmpty() ? 0 : 1;
            std::string obj = objText;
            for (int i = 0; i < 4; ++i) {
                obj[random() % obj.size()] = static_cast<char>(32 + random() % 90);
            }
            fixture::writeText(path("fuzz.obj"), obj);
            failure("fuzz.obj");
        }
        QVERIFY(refused > 100);
    }

    void aBoxIsCutToAFilledOutline()
    {
        Mesh mesh;
        addBox(mesh, {0, 0, 0}, {4, 2, 3});
        const PlanCut cut = PlanCutter(mesh).at(1.5);
        QCOMPARE(cut.outlines.size(), std::size_t{1});
        QVERIFY(cut.outlines[0].closed && cut.outlines[0].filled);
        QCOMPARE(cut.outlines[0].points.size(), std::size_t{4});
        QVERIFY(std::abs(areaOf(cut.outlines[0]) - 8.0) < 1e-9);
        QVERIFY(PlanCutter(mesh).at(3.5).outlines.empty());
        // Exactly on a face: each box is met once on its way up, not twice.
        QCOMPARE(PlanCutter(mesh).at(0.0).outlines.size() + PlanCutter(mesh).at(3.0).outlines.size(), std::size_t{1});
    }

    void holesAreHolesAndShellsAreEmpty()
    {
        Mesh hollow;
        addBox(hollow, {0, 0, 0}, {10, 10, 3});
        addBox(hollow, {1, 1, -1}, {9, 9, 4}, true);
        const PlanCut cut = PlanCutter(hollow).at(1.0);
        QCOMPARE(cut.outlines.size(), std::size_t{2});
        double area = 0.0;
        for (const Outline& outline : cut.outlines) {
            QVERIFY(outline.filled);
            area += areaOf(outline);
        }
        QVERIFY(std::abs(area - 36.0) < 1e-9);
        Mesh shell;
        addBox(shell, {0, 0, 0}, {10, 10, 3}, true);
        QVERIFY(!PlanCutter(shell).at(1.0).outlines[0].filled);
    }

    void openSurfacesAreLines()
    {
        Mesh mesh;
        mesh.points = {{0, 0, 0}, {5, 0, 0}, {5, 0, 2}, {0, 0, 2}};
        mesh.triangles = {{{0, 1, 2}, 0}, {{0, 2, 3}, 0}};
        const PlanCut cut = PlanCutter(mesh).at(1.0);
        QCOMPARE(cut.outlines.size(), std::size_t{1});
        QVERIFY(!cut.outlines[0].closed);
        QCOMPARE(cut.outlines[0].points.size(), std::size_t{2}); // straight through the seam between the triangles
    }

    void floorsAreSeenFromAbove()
    {
        Mesh mesh;
        addBox(mesh, {0, 0, -1}, {10, 10, 0});
        addBox(mesh, {2, 2, 0}, {4, 4, 0.5});
        const FloorPlan plan = floorPlan(mesh, -0.5, 1.0);
        QCOMPARE(plan.faces.size(), std::size_t{4});
        QCOMPARE(plan.edges.size(), std::size_t{8});
        QCOMPARE(plan.faces.back().height_m, 0.5);
    }

    void wallsStopAndStepsCarryTheWalker()
    {
        Mesh mesh;
        addBox(mesh, {-10, -10, -1}, {10, 10, 0});
        addBox(mesh, {2, -3, 0}, {2.4, 3, 3});    // a wall to the east
        addBox(mesh, {-2, 2, -0.5}, {0, 4, 0.3}); // a step to the north
        addBox(mesh, {-2, 4, -0.5}, {0, 6, 1.5}); // a block behind it
        addBox(mesh, {-7, 2, 0}, {-4, 6, WalkSurface::highestStep_m + 0.03});
        const PlanCutter cutter(mesh);
        const Ground ground(std::make_shared<const Mesh>(mesh));
        WalkSurface surface(cutter, ground);
        const Vec3 atWall = surface.step({0, 0, 0}, {5, 0});
        QVERIFY(std::abs(atWall.x - (2.0 - WalkSurface::bodyRadius_m)) < 0.02);
        const Vec3 along = surface.step({1.7, 0, 0}, {1, 1});
        QVERIFY(along.x < 1.8 && along.y > 0.9); // slides
        const Vec3 up = surface.step({-1, 1, 0}, {0, 2});
        QVERIFY(std::abs(up.z - 0.3) < 1e-6);                   // rays are met in single precision
        QVERIFY(surface.step(up, {0, 3}).y < 4.0);              // the block is too high
        QVERIFY(surface.step({-5, 1, 0}, {0, 2}).y < 2.0);      // no step any more, and not below the knees either
        QVERIFY(surface.step({9.5, 9.5, 0}, {5, 0}).x <= 10.0); // no floor beyond the edge
    }

    /// A jump is a throw straight up: height v^2 / 2g, time 2v / g; what is walked off falls for sqrt(2h / g).
    void leapsFollowFreeFall()
    {
        constexpr double step_s = 1e-4;
        const auto time_s = [](Leap& leap, double& highest_m) {
            double seconds = 0.0;
            for (; leap.aloft() && seconds < 10.0; seconds += step_s) {
                leap.pass(step_s, 9.81);
                highest_m = std::max(highest_m, leap.above_m);
            }
            return seconds;
        };
        Leap leap;
        constexpr double high_m = 1.3;
        leap.jump(high_m, 9.81);
        double highest_m = 0.0;
        const double jump_s = time_s(leap, highest_m);
        QVERIFY(std::abs(highest_m - high_m) < 1e-6 && std::abs(jump_s - 2.0 * std::sqrt(2.0 * high_m / 9.81)) < 2e-4);
        leap.lose(WalkSurface::highestStep_m * 0.9);
        QVERIFY(!leap.aloft()); // a step down
        leap.lose(2.0);
        leap.jump(1.0, 9.81); // nothing to jump from
        QVERIFY(std::abs(time_s(leap, highest_m) - std::sqrt(4.0 / 9.81)) < 0.001);
    }

    void upright()
    {
        Mesh mesh;
        addBox(mesh, {0, 0, 0}, {10, 4, 3});
        addBox(mesh, {20, 0, 0}, {22, 4, 1});
        const SectionCutter north(mesh, Looking::north);
        const PlanCut cut = north.at(1.0);
        QCOMPARE(cut.outlines.size(), std::size_t{2});
        QVERIFY(north.at(5.0).outlines.empty() && north.at(-1.0).outlines.empty());
        Vec2 low{1e9};
        Vec2 high{-1e9};
        const PlanCut crate = SectionCutter(mesh, Looking::west).at(21.0);
        for (const Vec2& p : crate.outlines.at(0).points) {
            low = glm::min(low, p);
            high = glm::max(high, p);
        }
        QVERIFY(low == Vec2(0, 0) && high == Vec2(4, 1)); // along north, up
        for (const Outline& outline : cut.outlines) {
            QVERIFY(outline.filled && signedArea(outline.points) > 0.0); // turned, not mirrored: solid on the left
        }
        for (const Looking looking : {Looking::north, Looking::west}) {
            const Vec3 way = fromSheet(looking, {2.0, 3.0});
            QVERIFY(onSheet(looking, way) == Vec2(2.0, 3.0) && across(looking, way) == 0.0);
        }
    }

    /// Every kind of shape holds all of the part that it is put round, and not much more.
    void shapesAreFittedToParts()
    {
        Mesh mesh;
        const double turn = radians(30.0);
        const auto put = [&](const Vec3& low, const Vec3& high) {
            const std::size_t first = mesh.points.size();
            addBox(mesh, low, high);
            for (std::size_t i = first; i < mesh.points.size(); ++i) {
                const Vec3 p = mesh.points[i];
                mesh.points[i] = {p.x * std::cos(turn) + p.y * std::sin(turn), p.y * std::cos(turn) - p.x * std::sin(turn),
                                  p.z};
            }
        };
        put({10, -1, 2}, {12, 3, 3});
        mesh.nodes = {{"crate", {}, 0, mesh.triangles.size()}};
        put({-20, -20, -1}, {40, 40, 0});
        mesh.nodes.push_back({"ground", {}, mesh.nodes[0].triangleCount, mesh.triangles.size() - mesh.nodes[0].triangleCount});
        const auto box = fittedTo(mesh, mesh.nodes[0], 0);
        QVERIFY(std::abs(box.heading_deg - 30.0) < 0.06);
        const Vec3 size = std::get<Box>(box.shape).size_m;
        QVERIFY(std::abs(size.x - 2.0) < 0.02 && std::abs(size.y - 4.0) < 0.02 && std::abs(size.z - 1.0) < 0.02);
        QVERIFY(std::abs(std::get<Ball>(fittedTo(mesh, mesh.nodes[0], 1).shape).radius_m - std::sqrt(21.0) / 2.0) < 0.05);
        QCOMPARE(std::get<Prism>(fittedTo(mesh, mesh.nodes[0], 3).shape).corners.size(), std::size_t{4});
        QCOMPARE(std::get<Hull>(fittedTo(mesh, mesh.nodes[0], 5).shape).node, std::string("crate"));
        for (std::size_t kind = 0; kind < 4; ++kind) {
            const FittedShape fitted = fittedTo(mesh, mesh.nodes[0], kind);
            const Solid solid(fitted.shape, frameAt(fitted.at, fitted.heading_deg));
            for (std::size_t i = 0; i < 8; ++i) {
                QVERIFY2(solid.signedDistance(mesh.points[i]) < 0.02, qPrintable(QString::number(kind)));
            }
        }
        const Vec2 inCrate{11 * std::cos(turn) + std::sin(turn), std::cos(turn) - 11 * std::sin(turn)};
        QCOMPARE(partAt(mesh, inCrate, 0.0, 5.0)->name, std::string("crate"));
        QCOMPARE(partAt(mesh, inCrate, -2.0, 1.0)->name, std::string("ground"));
        QVERIFY(partAt(mesh, {1000, 0}, -10.0, 10.0) == nullptr);
    }

    void theDemoLevelCarriesItsWalk()
    {
        const Mesh mesh = importMesh(std::filesystem::path(DEMO) / "level/vellmoor-halt.glb", {});
        QVERIFY(mesh.triangles.size() >= 3'000 && mesh.triangles.size() <= 30'000);
        QVERIFY(mesh.materials.size() >= 8);
        const Ground ground(std::make_shared<const Mesh>(mesh));
        const Project project = readProjectFile(DEMO).project;
        for (const auto& walk : project.levels[0]->walks) {
            for (const WalkPoint& point : walk->points) {
                QVERIFY2(ground.floorBelow(point.at + Vec3{0.0, 0.0, 0.3}, 0.6), qPrintable(QString("%1 s").arg(point.t_s)));
            }
        }
    }
};

} // namespace tst_level

STONE_TEST(tst_level, TestLevel)
#include "tst_level.moc"
