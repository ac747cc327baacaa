// SPDX-License-Identifier: GPL-3.0-or-later
#include "dsp/decibel.h"
#include "exports/gltf_export.h"
#include "level/ground.h"
#include "level/mesh_import.h"
#include "project/edit.h"
#include "project/read.h"
#include "project/write.h"
#include "support/boxes.h"
#include "support/fixtures.h"
#include "support/one_of_many.h"

#include <nlohmann/json.hpp>

#include <QTemporaryDir>
#include <QTest>

#include <fstream>
#include <random>

namespace tst_gltf_emitters
{

using namespace stone;
using Json = nlohmann::ordered_json;

namespace
{

Project yard()
{
    return readProjectText(R"({
      "name": "Yard",
      "sounds": [{"id": "hum", "name": "Hum", "file": "sounds/hum.wav", "loop": true, "level_db": -2},
                 {"id": "wind", "name": "Wind", "file": "sounds/wind.ogg", "loop": true}],
      "falloffs": [{"id": "f", "name": "Near", "lanes": [{"model": "exponential", "reference_m": 2.5, "factor": 1.25}]},
                   {"id": "g", "name": "Drawn", "lanes": [{"shape": "curve", "points": [{"x": 1, "y": 0}, {"x": 9, "y": -40}]}]}],
      "levels": [{"id": "l", "name": "Yard",
        "emitters": [
          {"id": "a", "name": "Lamp", "at": [1.5, -2.25, 3], "heading_deg": 30, "tilt_deg": -20, "sound": "hum", "falloff": "f", "level_db": -6,
           "lanes": [{"over": "off_front", "shape": "two_angles", "inner_deg": 60, "outer_deg": 170, "inside": 0, "behind": -18}]},
          {"id": "b", "name": "Motor", "at": [4, 5, 1], "sound": "hum", "falloff": "g", "pitch_st": 2},
          {"id": "c", "name": "Air", "kind": "bed", "sound": "wind", "level_db": -12},
          {"id": "d", "name": "Cat", "kind": "roamer", "sound": "hum", "falloff": "f", "roamer": {"stops": [{"at": [1, 8, 0]}, {"at": [5, 8, 0]}]}},
          {"id": "e", "name": "Soles", "kind": "steps", "sound": "hum"}]}]})",
                           "yard")
        .project;
}

struct Shelf {
    std::filesystem::path write(const GltfLevel& level, const char* name = "level.glb") const
    {
        const auto file = std::filesystem::path(folder.path().toStdString()) / name;
        std::ofstream out(file, std::ios::binary);
        out << level.bytes;
        return file;
    }
    std::filesystem::path write(const Json& json, const char* name = "level.gltf") const
    {
        const auto file = std::filesystem::path(folder.path().toStdString()) / name;
        std::ofstream(file) << json.dump();
        return file;
    }
    QTemporaryDir folder;
};

GltfLevel exported(const Project& project, const Ground* ground = nullptr)
{
    return gltfOf(project, {"l"}, ground, [](const Sound&, const SoundFile& file) { return file.file; });
}

Json jsonOf(const GltfLevel& level)
{
    std::uint32_t size = 0;
    std::memcpy(&size, level.bytes.data() + 12, sizeof size);
    return Json::parse(level.bytes.substr(20, size));
}

const Json& emitterNamed(const Json& json, const std::string& name)
{
    for (const Json& emitter : json["extensions"]["KHR_audio_emitter"]["emitters"]) {
        if (emitter["name"] == name) {
            return emitter;
        }
    }
    qFatal("no emitter %s", name.c_str());
}

} // namespace

/// Levels that go out with their emitters, and come in with them.
class TestGltfEmitters : public QObject
{
    Q_OBJECT

private slots:
    void theDraftsNumbersAreWritten()
    {
        const GltfLevel level = exported(yard());
        QCOMPARE(level.emitters, 4U);
        QVERIFY(level.inPart == (std::vector<std::string>{"Motor", "Cat"})); // a drawn falloff, a way
        QVERIFY(level.without == std::vector<std::string>{"Soles"});
        const Json json = jsonOf(level);
        QVERIFY(json["asset"]["version"] == "2.0");
        QVERIFY(json["extensionsUsed"] == Json::array({"KHR_audio_emitter"}));
        const Json& lamp = emitterNamed(json, "Lamp");
        QVERIFY(lamp["type"] == "positional");
        QVERIFY(std::abs(lamp["gain"].get<double>() - std::pow(10.0, -6.0 / 20.0)) < 1e-12);
        const Json& positional = lamp["positional"];
        QVERIFY(positional["shapeType"] == "cone");
        QVERIFY(std::abs(positional["coneInnerAngle"].get<double>() - 60.0 * std::numbers::pi / 180.0) < 1e-12);
        QVERIFY(std::abs(positional["coneOuterAngle"].get<double>() - 170.0 * std::numbers::pi / 180.0) < 1e-12);
        QVERIFY(std::abs(positional["coneOuterGain"].get<double>() - std::pow(10.0, -18.0 / 20.0)) < 1e-12);
        QVERIFY(positional["distanceModel"] == "exponential");
        QCOMPARE(positional["refDistance"].get<double>(), 2.5);
        QCOMPARE(positional["rolloffFactor"].get<double>(), 1.25);
        QVERIFY(emitterNamed(json, "Air")["type"] == "global");
        QCOMPARE(json["scenes"][0]["extensions"]["KHR_audio_emitter"]["emitters"].size(), 1U);
        const Json& said = json["extensions"]["KHR_audio_emitter"];
        QCOMPARE(said["sources"].size(), 2U); // each sound once
        QVERIFY(said["audio"][0]["uri"] == "sounds/hum.wav");
        QVERIFY(said["audio"][0]["mimeType"] == "audio/wav");
        QVERIFY(std::abs(said["sources"][0]["gain"].get<double>() - gainOf(-2.0)) < 1e-12);
        // Y up, Z to the south; every node is named after its emitter.
        QVERIFY(json["nodes"][0]["name"] == "Lamp");
        QVERIFY(json["nodes"][0]["translation"] == Json::array({1.5, 3.0, 2.25}));
    }

    /// Where the node looks is where the emitter's front is: by the importer of levels, which knows nothing of emitters.
    void nodesLookWhereTheFrontIs()
    {
        const Shelf shelf;
        for (const double heading : {0.0, 45.0, 137.0, -90.0, 179.0}) {
            Project project = yard();
            project = withEmitter(project, {"l"}, {"a"}, [&](Emitter& e) { e.heading_deg = heading; });
            const Mesh mesh = importMesh(shelf.write(exported(project)), {});
            QVERIFY(mesh.node("Lamp") != nullptr);
            QVERIFY(std::abs(std::remainder(mesh.node("Lamp")->heading_deg - heading, 360.0)) < 1e-6);
            QVERIFY(glm::length(mesh.node("Lamp")->at - Vec3{1.5, -2.25, 3.0}) < 1e-9);
        }
    }

    void whatIsOursComesBackAsItWas()
    {
        const Shelf shelf;
        const Project project = yard();
        const GltfEmitters back = emittersInGltf(shelf.write(exported(project)), 1.0);
        QCOMPARE(back.emitters.size(), 5U);
        for (std::size_t i = 0; i < 5; ++i) {
            Emitter is = back.emitters[i];
            const Emitter& was = *project.levels[0]->emitters[i];
            QVERIFY2(is.id == was.id, is.id.text.c_str());
            QVERIFY(glm::length(is.at - was.at) < 1e-9);
            is.at = was.at;
            QVERIFY2(is == was, was.name.c_str());
        }
        QCOMPARE(back.sounds.size(), 2U);
        QCOMPARE(back.sounds[0].files[0].file, std::string("sounds/hum.wav"));
        QVERIFY(back.sounds[0].loop);
        QCOMPARE(back.sounds[0].level_db, -2.0);
        QCOMPARE(back.falloffs.size(), 2U);
    }

    /// From somebody else, nested, scaled and turned: places, cones, models and gains by hand.
    void whatSomebodyElseWroteIsTakenOver()
    {
        const Shelf shelf;
        const double half = std::sqrt(0.5);
        const Json json{
            {"asset", {{"version", "2.0"}}},
            {"nodes",
             {{{"name", "Arm"}, {"translation", {10.0, 0.0, 0.0}}, {"rotation", {0.0, half, 0.0, half}}, {"children", {1}}},
              {{"name", "Siren"},
               {"translation", {0.0, 2.0, -3.0}},
               {"extensions", {{"KHR_audio_emitter", {{"emitter", 0}}}}}}}},
            {"scenes", {{{"nodes", {0}}, {"extensions", {{"KHR_audio_emitter", {{"emitters", {1}}}}}}}}},
            {"extensions",
             {{"KHR_audio_emitter",
               {{"audio", {{{"uri", "siren.mp3"}}}},
                {"sources", {{{"audio", 0}, {"gain", 0.5}, {"loop", true}}}},
                {"emitters",
                 {{{"type", "positional"},
                   {"gain", 2.0},
                   {"sources", {0}},
                   {"positional",
                    {{"shapeType", "cone"},
                     {"coneInnerAngle", 1.0},
                     {"coneOuterAngle", 2.0},
                     {"coneOuterGain", 0.25},
                     {"distanceModel", "linear"},
                     {"refDistance", 3.0},
                     {"maxDistance", 40.0},
                     {"rolloffFactor", 0.9}}}},
                  {{"name", "Hall"}, {"type", "global"}, {"gain", 0.1}, {"sources", {0}}}}}}}}}};
        const GltfEmitters found = emittersInGltf(shelf.write(json), 2.0);
        QCOMPARE(found.emitters.size(), 2U);
        const Emitter& siren = found.emitters[0];
        QCOMPARE(siren.name, std::string("Siren"));
        QVERIFY(siren.kind == EmitterKind::point);
        // A quarter to the left about the vertical: what was 3 m ahead, to the north, is 3 m to the west; all twice as large.
        QVERIFY2(glm::length(siren.at - Vec3{14.0, 0.0, 4.0}) < 1e-9,
                 qPrintable(QString("%1 %2 %3").arg(siren.at.x).arg(siren.at.y).arg(siren.at.z)));
        QVERIFY(std::abs(std::remainder(siren.heading_deg - -90.0, 360.0)) < 1e-6);
        QVERIFY(std::abs(siren.level_db - 20.0 * std::log10(2.0)) < 1e-6);
        const TwoAngles& cone = siren.lanes.at(0).angles;
        QVERIFY(std::abs(cone.inner_deg - degrees(1.0)) < 1e-6 && std::abs(cone.outer_deg - degrees(2.0)) < 1e-6);
        QVERIFY(std::abs(cone.behind - 20.0 * std::log10(0.25)) < 1e-6);
        const DistanceFormula& formula = std::get<Falloff>(siren.falloff).lanes.front().formula;
        QVERIFY(formula.model == DistanceModel::linear);
        QCOMPARE(formula.reference_m, 3.0);
        QCOMPARE(formula.maximum_m, 40.0);
        QCOMPARE(formula.factor, 0.9);
        QVERIFY(found.emitters[1].kind == EmitterKind::bed);
        QVERIFY(std::abs(found.emitters[1].level_db - -20.0) < 1e-6);
        QCOMPARE(found.sounds.size(), 1U);
        QVERIFY(std::abs(found.sounds[0].level_db - 20.0 * std::log10(0.5)) < 1e-6);
    }

    /// One of ours that somebody has moved, turned down and given another model elsewhere.
    void whatWasChangedElsewhereCounts()
    {
        const Shelf shelf;
        Json json = jsonOf(exported(yard()));
        json["nodes"][0]["translation"] = {7.0, 1.0, 0.0};
        json["extensions"]["KHR_audio_emitter"]["emitters"][0]["gain"] = 0.1;
        json["extensions"]["KHR_audio_emitter"]["emitters"][0]["positional"]["refDistance"] = 4.0;
        const Emitter lamp = emittersInGltf(shelf.write(json), 1.0).emitters[0];
        QCOMPARE(lamp.id.text, std::string("a"));
        QVERIFY(glm::length(lamp.at - Vec3{7, 0, 1}) < 1e-9);
        QVERIFY(std::abs(lamp.level_db - -20.0) < 1e-6);
        QCOMPARE(std::get<Falloff>(lamp.falloff).lanes.front().formula.reference_m, 4.0);
        QCOMPARE(lamp.lanes.size(), 1U);
    }

    void geometryGoesAlong()
    {
        const Shelf shelf;
        fixture::writeText(std::filesystem::path(shelf.folder.path().toStdString()) / "room.obj",
                           fixture::boxObj("wood", {0, 0, 0}, {6, 4, 3}));
        const Mesh was = importMesh(std::filesystem::path(shelf.folder.path().toStdString()) / "room.obj", {.zUp = true});
        const Ground ground(std::make_shared<const Mesh>(was));
        const Mesh is = importMesh(shelf.write(exported(yard(), &ground)), {});
        QCOMPARE(is.triangles.size(), was.triangles.size());
        const auto before = was.bounds();
        const auto after = is.bounds();
        QVERIFY(glm::length(before[0] - after[0]) < 1e-6 && glm::length(before[1] - after[1]) < 1e-6);
    }

    /// Whatever a file says, nothing but emitters comes of it.
    void damagedFilesDoNoHarm()
    {
        const Shelf shelf;
        std::mt19937 chance(5);
        const std::string good = jsonOf(exported(yard())).dump();
        const auto below = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(chance); };
        int some = 0;
        for (int i = 0; i < 3000; ++i) {
            std::string bad = good;
            for (std::size_t k = 0; k <= below(3); ++k) {
                const std::size_t at = below(bad.size());
                switch (below(3)) {
                case 0: bad[at] = static_cast<char>(32 + below(95)); break;
                case 1: bad.erase(at, below(9)); break;
                default: bad.insert(at, std::string(1, "0123456789-[]{}\",e."[below(19)])); break;
                }
            }
            const auto file = std::filesystem::path(shelf.folder.path().toStdString()) / "bad.gltf";
            std::ofstream(file) << bad;
            const GltfEmitters found = emittersInGltf(file, 1.0);
            some += found.emitters.empty() ? 0 : 1;
            for (const Emitter& emitter : found.emitters) {
                QVERIFY(std::isfinite(emitter.at.x + emitter.at.y + emitter.at.z + emitter.heading_deg + emitter.level_db));
            }
        }
        QVERIFY(some > 50);
        QVERIFY(emittersInGltf("/nowhere.glb", 1.0).emitters.empty());
    }
};

} // namespace tst_gltf_emitters

STONE_TEST(tst_gltf_emitters, TestGltfEmitters)
#include "tst_gltf_emitters.moc"
