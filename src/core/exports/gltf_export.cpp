// SPDX-License-Identifier: MPL-2.0
#include "exports/gltf_export.h"

#include "dsp/decibel.h"
#include "level/ground.h"
#include "project/edit.h"
#include "project/emitter_json.h"
#include "project/lane_json.h"
#include "project/sound_json.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>
#include <map>

namespace stone
{

namespace
{

constexpr int floats = 5126; ///< component types of glTF
constexpr int wholes = 5125;

/// glTF has Y up and Z to the south.
Json asGltf(const Vec3& at)
{
    return Json::array({at.x, at.z, -at.y});
}

/// A node looks along -Z: turned to a heading and up by a tilt.
Json rotationOf(double heading_deg, double tilt_deg)
{
    const double h = radians(-heading_deg) / 2.0;
    const double t = radians(tilt_deg) / 2.0;
    return Json::array(
        {std::cos(h) * std::sin(t), std::sin(h) * std::cos(t), -std::sin(h) * std::sin(t), std::cos(h) * std::cos(t)});
}

const char* mimeOf(const std::string& file)
{
    const std::string ending = std::filesystem::path(file).extension().string();
    static const std::map<std::string, const char*> known{
        {".wav", "audio/wav"}, {".mp3", "audio/mpeg"}, {".ogg", "audio/ogg"}, {".opus", "audio/opus"}, {".flac", "audio/flac"}};
    const auto found = known.find(ending);
    return found != known.end() ? found->second : "audio/wav";
}

class Writer
{
public:
    Writer(const Project& project, const Level& level, const std::function<std::string(const Sound&, const SoundFile&)>& uri)
        : project_(project), level_(level), uri_(uri)
    {
        json_ = {{"asset", {{"version", "2.0"}, {"generator", "Stone Echo"}}},
                 {"scene", 0},
                 {"scenes", Json::array({{{"name", level.name}, {"nodes", Json::array()}}})},
                 {"nodes", Json::array()}};
    }

    GltfLevel write(const Ground* ground)
    {
        if (ground != nullptr && !ground->mesh().triangles.empty()) {
            addGeometry(ground->mesh());
        }
        for (const auto& emitter : level_.emitters) {
            add(*emitter);
        }
        if (!audio_.empty() || !emitters_.empty()) {
            json_["extensionsUsed"] = {gltfEmitterExtension};
            Json said;
            for (const auto& [key, list] : {std::pair("audio", &audio_), {"sources", &sources_}, {"emitters", &emitters_}}) {
                if (!list->empty()) {
                    said[key] = *list;
                }
            }
            json_["extensions"][gltfEmitterExtension] = std::move(said);
        }
        if (!global_.empty()) {
            json_["scenes"][0]["extensions"][gltfEmitterExtension]["emitters"] = global_;
        }
        Json falloffs = Json::array();
        for (const auto& falloff : project_.falloffs) {
            falloffs.push_back(toJson(*falloff));
        }
        json_["extras"]["stone_echo"] = {{"falloffs", falloffs}};
        made_.bytes = packed();
        return std::move(made_);
    }

private:
    void addGeometry(const Mesh& mesh)
    {
        std::vector<std::vector<std::uint32_t>> byMaterial(mesh.materials.size());
        for (const Mesh::Triangle& triangle : mesh.triangles) {
            byMaterial[triangle.material].insert(byMaterial[triangle.material].end(), triangle.corners.begin(),
                                                 triangle.corners.end());
        }
        Vec3 low{std::numeric_limits<double>::max()};
        Vec3 high{std::numeric_limits<double>::lowest()};
        const std::size_t from = binary_.size();
        for (const Vec3& p : mesh.points) {
            const float turned[3] = {static_cast<float>(p.x), static_cast<float>(p.z), static_cast<float>(-p.y)};
            append(turned, sizeof turned);
            const Vec3 as{turned[0], turned[1], turned[2]};
            low = glm::min(low, as);
            high = glm::max(high, as);
        }
        const int points = view(from);
        json_["accessors"].push_back({{"bufferView", points},
                                      {"componentType", floats},
                                      {"count", mesh.points.size()},
                                      {"type", "VEC3"},
                                      {"min", {low.x, low.y, low.z}},
                                      {"max", {high.x, high.y, high.z}}});
        Json primitives = Json::array();
        for (std::size_t material = 0; material < byMaterial.size(); ++material) {
            const auto& corners = byMaterial[material];
            if (corners.empty()) {
                continue;
            }
            const std::size_t begins = binary_.size();
            append(corners.data(), corners.size() * sizeof(std::uint32_t));
            json_["accessors"].push_back(
                {{"bufferView", view(begins)}, {"componentType", wholes}, {"count", corners.size()}, {"type", "SCALAR"}});
            Json primitive{{"attributes", {{"POSITION", 0}}}, {"indices", json_["accessors"].size() - 1}};
            if (!mesh.materials[material].empty()) {
                json_["materials"].push_back({{"name", mesh.materials[material]}});
                primitive["material"] = json_["materials"].size() - 1;
            }
            primitives.push_back(std::move(primitive));
        }
        json_["meshes"] = Json::array({{{"name", level_.name}, {"primitives", primitives}}});
        addNode({{"name", level_.name}, {"mesh", 0}});
        // Where something may ride or be put by rules.
        for (const Mesh::Node& node : mesh.nodes) {
            addNode({{"name", node.name}, {"translation", asGltf(node.at)}, {"rotation", rotationOf(node.heading_deg, 0.0)}});
        }
    }

    void addNode(Json node)
    {
        json_["scenes"][0]["nodes"].push_back(json_["nodes"].size());
        json_["nodes"].push_back(std::move(node));
    }

    void append(const void* data, std::size_t size) { binary_.append(static_cast<const char*>(data), size); }

    int view(std::size_t from)
    {
        json_["bufferViews"].push_back({{"buffer", 0}, {"byteOffset", from}, {"byteLength", binary_.size() - from}});
        return static_cast<int>(json_["bufferViews"].size()) - 1;
    }

    /// The source of a sound; nothing where none of its files is written.
    std::optional<std::size_t> sourceOf(const SoundId& id)
    {
        if (const auto known = sourceBySound_.find(id); known != sourceBySound_.end()) {
            return known->second;
        }
        const Sound* sound = project_.sounds.find(id);
        std::optional<std::size_t> index;
        if (sound != nullptr && !sound->files.empty()) {
            if (const std::string file = uri_(*sound, sound->files.front()); !file.empty()) {
                audio_.push_back({{"uri", file}, {"mimeType", mimeOf(file)}});
                sources_.push_back({{"name", sound->name},
                                    {"audio", audio_.size() - 1},
                                    {"gain", gainOf(sound->level_db + sound->files.front().level_db)},
                                    {"loop", sound->loop},
                                    {"autoPlay", sound->loop},
                                    {"extras", {{"stone_echo", toJson(*sound)}}}});
                index = sources_.size() - 1;
            }
        }
        sourceBySound_.emplace(id, index);
        return index;
    }

    /// What the draft says of a place; what it cannot say of the falloff makes `whole` false.
    Json positionalOf(const Emitter& emitter, double& inside_db, bool& whole) const
    {
        Json positional{{"shapeType", "omnidirectional"}};
        for (const Lane& lane : emitter.lanes) {
            if (!lane.on) {
                continue;
            }
            if (lane.property != LaneProperty::level || lane.over != LaneInput::offFront ||
                lane.shape != LaneShape::twoAngles) {
                whole = false;
                continue;
            }
            inside_db = lane.angles.inside;
            positional["shapeType"] = "cone";
            positional["coneInnerAngle"] = radians(lane.angles.inner_deg);
            positional["coneOuterAngle"] = radians(lane.angles.outer_deg);
            positional["coneOuterGain"] = gainOf(lane.angles.behind - lane.angles.inside);
        }
        const Falloff& falloff = falloffOf(project_, emitter);
        const Lane& level = falloff.lanes.front();
        const DistanceFormula formula = level.shape == LaneShape::formula ? level.formula : DistanceFormula{};
        whole = whole && falloff.lanes.size() == 1 && level.on && level.shape == LaneShape::formula &&
                formula.silentAt_m == 0.0 && formula.staysFrom_m == 0.0;
        positional["distanceModel"] = wordOf(formula.model);
        positional["refDistance"] = formula.reference_m;
        positional["maxDistance"] = formula.maximum_m;
        positional["rolloffFactor"] = formula.factor;
        return positional;
    }

    void add(const Emitter& emitter)
    {
        Json node{{"name", emitter.name}, {"translation", asGltf(placeOf(emitter))}};
        if (emitter.heading_deg != 0.0 || emitter.tilt_deg != 0.0) {
            node["rotation"] = rotationOf(emitter.heading_deg, emitter.tilt_deg);
        }
        Emitter whole = emitter;
        whole.pattern = {};
        node["extras"]["stone_echo"] = toJson(whole);
        const auto source = sourceOf(emitter.sound);
        const bool everywhere = emitter.kind == EmitterKind::bed && emitter.zone.empty();
        const bool said =
            source && !emitter.muted && !isOfCharacter(emitter.kind) && (emitter.kind != EmitterKind::bed || everywhere);
        if (!said) {
            made_.without.push_back(emitter.name);
        } else {
            bool all = emitter.kind == EmitterKind::point || everywhere;
            double inside_db = 0.0;
            Json made{{"name", emitter.name}, {"type", everywhere ? "global" : "positional"}};
            if (!everywhere) {
                made["positional"] = positionalOf(emitter, inside_db, all);
            }
            made["gain"] = gainOf(emitter.level_db + inside_db);
            made["sources"] = Json::array({*source});
            emitters_.push_back(std::move(made));
            if (everywhere) {
                global_.push_back(emitters_.size() - 1);
            } else {
                node["extensions"][gltfEmitterExtension]["emitter"] = emitters_.size() - 1;
            }
            ++made_.emitters;
            if (!all) {
                made_.inPart.push_back(emitter.name);
            }
        }
        addNode(std::move(node));
    }

    static Vec3 placeOf(const Emitter& emitter)
    {
        const auto& stops = emitter.roaming.stops;
        return emitter.kind == EmitterKind::roamer && !stops.empty() ? stops.front().at : emitter.at;
    }

    /// The container: a head, the JSON, the numbers; each part in whole fours of bytes.
    std::string packed()
    {
        if (!binary_.empty()) {
            json_["buffers"] = Json::array({{{"byteLength", binary_.size()}}});
        }
        std::string text = json_.dump();
        text.resize((text.size() + 3) / 4 * 4, ' ');
        binary_.resize((binary_.size() + 3) / 4 * 4, '\0');
        std::string bytes;
        const auto whole = [&](std::uint32_t number) {
            for (unsigned i = 0; i < 4; ++i) {
                bytes += static_cast<char>(number >> (8U * i));
            }
        };
        const std::size_t size = 12 + 8 + text.size() + (binary_.empty() ? 0 : 8 + binary_.size());
        whole(0x46546C67);
        whole(2);
        whole(static_cast<std::uint32_t>(size));
        whole(static_cast<std::uint32_t>(text.size()));
        whole(0x4E4F534A);
        bytes += text;
        if (!binary_.empty()) {
            whole(static_cast<std::uint32_t>(binary_.size()));
            whole(0x004E4942);
            bytes += binary_;
        }
        return bytes;
    }

    const Project& project_;
    const Level& level_;
    const std::function<std::string(const Sound&, const SoundFile&)>& uri_;
    Json json_;
    std::string binary_;
    Json audio_ = Json::array();
    Json sources_ = Json::array();
    Json emitters_ = Json::array();
    Json global_ = Json::array();
    std::map<SoundId, std::optional<std::size_t>> sourceBySound_;
    GltfLevel made_;
};

} // namespace

GltfLevel gltfOf(const Project& planted, const LevelId& level, const Ground* ground,
                 const std::function<std::string(const Sound&, const SoundFile&)>& uri)
{
    return Writer(planted, *planted.levels.find(level), uri).write(ground);
}

} // namespace stone
