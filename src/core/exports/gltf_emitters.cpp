// SPDX-License-Identifier: MPL-2.0
#include "exports/gltf_export.h"

#include "dsp/decibel.h"
#include "geometry/pose.h"
#include "level/level_files.h"
#include "project/edit.h"
#include "project/emitter_json.h"
#include "project/json_place.h"
#include "project/lane_json.h"
#include "project/read.h"

#include <glm/gtc/quaternion.hpp>
#include <glm/mat4x4.hpp>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <fstream>
#include <iterator>
#include <map>
#include <string_view>

namespace stone
{

namespace
{

constexpr std::size_t mostNodes = 1'000'000;
constexpr double furthestNode_m = 1e6;

/// A member of an object, or null for everything else: a file from a stranger may say anything anywhere.
const Json& member(const Json& json, const std::string& key)
{
    static const Json nothing;
    if (!json.is_object()) {
        return nothing;
    }
    const auto found = json.find(key);
    return found != json.end() ? *found : nothing;
}

const Json& element(const Json& json, const Json& index)
{
    static const Json nothing;
    const bool good = json.is_array() && index.is_number_unsigned() && index.get<std::size_t>() < json.size();
    return good ? json[index.get<std::size_t>()] : nothing;
}

double numberOr(const Json& json, double usual, double least, double most)
{
    const double number = json.is_number() ? json.get<double>() : usual;
    return std::isfinite(number) ? std::clamp(number, least, most) : usual;
}

std::string textOr(const Json& json, const std::string& usual)
{
    return json.is_string() && !json.get<std::string>().empty() ? json.get<std::string>() : usual;
}

std::vector<double> numbers(const Json& json, std::size_t count)
{
    std::vector<double> all;
    if (json.is_array() && json.size() == count) {
        for (const Json& one : json) {
            if (one.is_number() && std::isfinite(one.get<double>())) {
                all.push_back(one.get<double>());
            }
        }
    }
    return all.size() == count ? all : std::vector<double>{};
}

glm::dmat4 transformOf(const Json& node)
{
    glm::dmat4 m(1.0);
    if (const auto matrix = numbers(member(node, "matrix"), 16); !matrix.empty()) {
        for (int i = 0; i < 16; ++i) {
            m[i / 4][i % 4] = matrix[static_cast<std::size_t>(i)];
        }
        return m;
    }
    if (const auto turned = numbers(member(node, "rotation"), 4); !turned.empty()) {
        m = glm::mat4_cast(glm::dquat(turned[3], turned[0], turned[1], turned[2]));
    }
    if (const auto scale = numbers(member(node, "scale"), 3); !scale.empty()) {
        for (int i = 0; i < 3; ++i) {
            m[i] *= scale[static_cast<std::size_t>(i)];
        }
    }
    if (const auto moved = numbers(member(node, "translation"), 3); !moved.empty()) {
        m[3] = glm::dvec4(moved[0], moved[1], moved[2], 1.0);
    }
    return m;
}

std::string unescaped(const std::string& uri)
{
    std::string plain;
    for (std::size_t i = 0; i < uri.size(); ++i) {
        unsigned value = 0;
        const bool escaped = uri[i] == '%' && i + 2 < uri.size() && std::sscanf(uri.c_str() + i + 1, "%2x", &value) == 1;
        plain += escaped ? static_cast<char>(value) : uri[i];
        i += escaped ? 2 : 0;
    }
    return plain;
}

class Reader
{
public:
    Reader(const Json& json, double scale)
        : json_(json), said_(member(member(json, "extensions"), gltfEmitterExtension)), scale_(scale)
    {
    }

    GltfEmitters read()
    {
        readFalloffs();
        const Json& nodes = member(json_, "nodes");
        if (!nodes.is_array() || nodes.size() > mostNodes) {
            return {};
        }
        std::vector<bool> child(nodes.size(), false);
        for (const Json& node : nodes) {
            for (const Json& one : member(node, "children")) {
                if (one.is_number_unsigned() && one.get<std::size_t>() < child.size()) {
                    child[one.get<std::size_t>()] = true;
                }
            }
        }
        seen_.assign(nodes.size(), false);
        for (std::size_t i = 0; i < nodes.size(); ++i) {
            if (!child[i]) {
                visit(i, glm::dmat4(1.0), 0);
            }
        }
        for (const Json& scene : member(json_, "scenes")) {
            for (const Json& index : member(member(member(scene, "extensions"), gltfEmitterExtension), "emitters")) {
                const Json& emitter = element(member(said_, "emitters"), index);
                // Ours are nodes as well.
                const auto known = std::find_if(found_.emitters.begin(), found_.emitters.end(), [&](const Emitter& one) {
                    return one.kind == EmitterKind::bed && one.name == textOr(member(emitter, "name"), {});
                });
                if (emitter.is_object() && known != found_.emitters.end()) {
                    takeOver(emitter, *known);
                } else if (emitter.is_object()) {
                    add(emitter, {}, nullptr);
                }
            }
        }
        return std::move(found_);
    }

private:
    void readFalloffs()
    {
        const Json& falloffs = member(member(member(json_, "extras"), "stone_echo"), "falloffs");
        if (!falloffs.is_array()) {
            return;
        }
        Json document{{"falloffs", falloffs}};
        if (const auto read = asProject(document)) {
            for (const auto& falloff : read->falloffs) {
                found_.falloffs.push_back(*falloff);
            }
        }
    }

    /// What a piece of a document says; nothing where it is none.
    static std::optional<Project> asProject(Json document)
    {
        try {
            document["name"] = "glTF";
            return readProjectText(document.dump(), "extras").project;
        } catch (const std::exception&) {
            return {};
        }
    }

    void visit(std::size_t index, const glm::dmat4& parent, int depth)
    {
        if (seen_[index] || depth > deepestGltf) {
            return;
        }
        seen_[index] = true;
        const Json& node = member(json_, "nodes")[index];
        const glm::dmat4 transform = parent * transformOf(node);
        const Json& emitter =
            element(member(said_, "emitters"), member(member(member(node, "extensions"), gltfEmitterExtension), "emitter"));
        const Json& own = member(member(node, "extras"), "stone_echo");
        if (emitter.is_object() || own.is_object()) {
            const glm::dvec4 at = transform * glm::dvec4(0.0, 0.0, 0.0, 1.0) * scale_;
            const glm::dvec4 ahead = transform * glm::dvec4(0.0, 0.0, -1.0, 0.0);
            Pose pose{{at.x, -at.z, at.y}, 0.0};
            const Vec3 way{ahead.x, -ahead.z, ahead.y};
            const double far = std::max({std::abs(pose.at.x), std::abs(pose.at.y), std::abs(pose.at.z)});
            if (far <= furthestNode_m && glm::length(way) > 0.0) {
                pose.heading_deg = headingAlong(way);
                pose.pitch_deg = degrees(std::asin(std::clamp(way.z / glm::length(way), -1.0, 1.0)));
                add(emitter, pose, &node);
            }
        }
        for (const Json& one : member(node, "children")) {
            if (one.is_number_unsigned() && one.get<std::size_t>() < seen_.size()) {
                visit(one.get<std::size_t>(), transform, depth + 1);
            }
        }
    }

    /// The sound of an emitter's first source.
    SoundId soundOf(const Json& emitter)
    {
        const Json& sources = member(emitter, "sources");
        const Json& source = element(member(said_, "sources"), sources.is_array() && !sources.empty() ? sources[0] : Json());
        const Json& audio = element(member(said_, "audio"), member(source, "audio"));
        const std::string uri = textOr(member(audio, "uri"), {});
        if (uri.empty() || uri.starts_with("data:")) {
            return {};
        }
        const std::string file = unescaped(uri);
        for (const Sound& known : found_.sounds) {
            if (known.files[0].file == file) {
                return known.id;
            }
        }
        Sound sound;
        sound.name = textOr(member(source, "name"), std::filesystem::path(file).stem().string());
        const std::string own = textOr(member(member(member(source, "extras"), "stone_echo"), "id"), {});
        sound.id = {freshId(own.empty() ? sound.name : own, found_.sounds)};
        sound.files.push_back({.file = file});
        sound.loop = member(source, "loop").is_boolean() && member(source, "loop").get<bool>();
        sound.level_db = std::round(levelOf(numberOr(member(source, "gain"), 1.0, 1e-6, 1e3)) * 1e9) / 1e9;
        found_.sounds.push_back(sound);
        return sound.id;
    }

    template <class Thing> static std::string freshId(const std::string& name, const std::vector<Thing>& known)
    {
        const std::string plain = slug(name);
        std::string id = plain;
        const auto taken = [&](const Thing& thing) { return thing.id.text == id; };
        for (int number = 2; std::any_of(known.begin(), known.end(), taken); ++number) {
            id = plain + '-' + std::to_string(number);
        }
        return id;
    }

    /// As it is in a document, where it is one of ours.
    std::optional<Emitter> ours(const Json* node) const
    {
        const Json& own = node != nullptr ? member(member(*node, "extras"), "stone_echo") : member(Json(), {});
        if (!own.is_object()) {
            return {};
        }
        Json falloffs = member(member(member(json_, "extras"), "stone_echo"), "falloffs");
        const auto read =
            asProject({{"falloffs", falloffs.is_array() ? falloffs : Json::array()},
                       {"levels", Json::array({{{"id", "l"}, {"name", "l"}, {"emitters", Json::array({own})}}})}});
        return read && !read->levels[0]->emitters.empty() ? std::optional(*read->levels[0]->emitters[0]) : std::nullopt;
    }

    void add(const Json& emitter, const Pose& pose, const Json* node)
    {
        Emitter made = ours(node).value_or(Emitter{});
        const bool foreign = made.id.empty();
        const std::string name =
            textOr(node != nullptr ? member(*node, "name") : Json(), textOr(member(emitter, "name"), "Emitter"));
        if (foreign) {
            made.name = name;
            made.id = {freshId(name, found_.emitters)};
            made.kind = textOr(member(emitter, "type"), "positional") == "global" ? EmitterKind::bed : EmitterKind::point;
        }
        if (made.kind != EmitterKind::roamer) {
            made.at = pose.at;
        }
        // Somebody may have turned the node; what an unturned one says to the last digit stays.
        const auto other = [](double a, double b) { return std::abs(std::remainder(a - b, 360.0)) > 1e-6; };
        made.heading_deg = other(made.heading_deg, pose.heading_deg) ? pose.heading_deg : made.heading_deg;
        made.tilt_deg = other(made.tilt_deg, pose.pitch_deg) ? pose.pitch_deg : made.tilt_deg;
        if (emitter.is_object()) {
            takeOver(emitter, made);
        }
        found_.emitters.push_back(std::move(made));
    }

    /// What the draft says of it, where that is something else than what it says already.
    void takeOver(const Json& emitter, Emitter& made)
    {
        const Json& positional = member(emitter, "positional");
        double inside_db = 0.0;
        auto cone = std::find_if(made.lanes.begin(), made.lanes.end(), [](const Lane& lane) {
            return lane.property == LaneProperty::level && lane.over == LaneInput::offFront &&
                   lane.shape == LaneShape::twoAngles;
        });
        if (textOr(member(positional, "shapeType"), "omnidirectional") == "cone") {
            if (cone == made.lanes.end()) {
                Lane lane;
                lane.over = LaneInput::offFront;
                lane.shape = LaneShape::twoAngles;
                lane.angles.inside = 0.0;
                cone = made.lanes.insert(made.lanes.end(), lane);
            }
            inside_db = cone->angles.inside;
            take(cone->angles.inner_deg,
                 degrees(numberOr(member(positional, "coneInnerAngle"), 2.0 * std::numbers::pi, 0.0, 7.0)));
            take(cone->angles.outer_deg,
                 degrees(numberOr(member(positional, "coneOuterAngle"), 2.0 * std::numbers::pi, 0.0, 7.0)));
            take(cone->angles.behind, inside_db + levelOf(numberOr(member(positional, "coneOuterGain"), 0.0, 1e-6, 1.0)));
        }
        take(made.level_db, levelOf(numberOr(member(emitter, "gain"), 1.0, 1e-6, 1e3)) - inside_db);
        made.sound = soundOf(emitter);
        if (positional.is_object()) {
            takeModel(positional, made);
        }
    }

    /// A number that is another one by more than rounding.
    static void take(double& number, double said)
    {
        if (std::abs(number - said) > 1e-9 * std::max(1.0, std::abs(said))) {
            number = std::round(said * 1e9) / 1e9;
        }
    }

    void takeModel(const Json& positional, Emitter& made)
    {
        DistanceFormula said;
        const std::string model = textOr(member(positional, "distanceModel"), "inverse");
        said.model = model == "linear"        ? DistanceModel::linear
                     : model == "exponential" ? DistanceModel::exponential
                                              : DistanceModel::inverse;
        said.reference_m = numberOr(member(positional, "refDistance"), 1.0, 0.0, furthestNode_m);
        said.maximum_m = numberOr(member(positional, "maxDistance"), 10'000.0, 0.0, furthestNode_m);
        said.factor = numberOr(member(positional, "rolloffFactor"), 1.0, 0.0, 1e3);
        const auto* shared = std::get_if<FalloffId>(&made.falloff);
        const auto known = std::find_if(found_.falloffs.begin(), found_.falloffs.end(),
                                        [&](const Falloff& falloff) { return shared != nullptr && falloff.id == *shared; });
        const Falloff* is = known != found_.falloffs.end() ? &*known : std::get_if<Falloff>(&made.falloff);
        DistanceFormula now = is != nullptr && !is->lanes.empty() && is->lanes.front().shape == LaneShape::formula
                                  ? is->lanes.front().formula
                                  : DistanceFormula{};
        const bool drawn = is != nullptr && !is->lanes.empty() && is->lanes.front().shape != LaneShape::formula;
        now.silentAt_m = said.silentAt_m;
        now.staysFrom_m = said.staysFrom_m;
        if (now == said || drawn) {
            return;
        }
        Falloff own;
        own.lanes.front().formula = said;
        made.falloff = own;
    }

    const Json& json_;
    const Json& said_;
    double scale_;
    std::vector<bool> seen_;
    GltfEmitters found_;
};

} // namespace

GltfEmitters emittersInGltf(const std::filesystem::path& file, double metresPerUnit)
{
    std::ifstream stream(file, std::ios::binary);
    const std::string bytes{std::istreambuf_iterator<char>(stream), std::istreambuf_iterator<char>()};
    const std::string_view text = gltfJson(bytes);
    if (text.empty() || troubleIn(text, deepestGltf)) {
        return {};
    }
    const Json json = Json::parse(text, nullptr, false);
    return json.is_object() ? Reader(json, metresPerUnit).read() : GltfEmitters{};
}

Project withEmittersOf(Project project, const LevelId& levelId, const GltfEmitters& found,
                       const std::function<std::string(const std::string& file)>& placeOf)
{
    std::map<FalloffId, FalloffId> falloffs;
    for (Falloff falloff : found.falloffs) {
        const FalloffId was = falloff.id;
        const Falloff* known = project.falloffs.find(was);
        if (known == nullptr || !(*known == falloff)) {
            falloff.id = known == nullptr ? was : project.falloffs.freshId(falloff.name);
            project.falloffs.append(falloff);
        }
        falloffs.emplace(was, falloff.id);
    }
    std::map<SoundId, SoundId> sounds;
    for (Sound sound : found.sounds) {
        const SoundId was = sound.id;
        sound.files[0].file = placeOf(sound.files[0].file);
        if (sound.files[0].file.empty()) {
            continue;
        }
        const auto same = std::find_if(project.sounds.begin(), project.sounds.end(), [&](const auto& known) {
            return known->files.size() == 1 && known->files[0].file == sound.files[0].file && known->loop == sound.loop;
        });
        sound.id = same != project.sounds.end() ? (*same)->id : project.sounds.freshId(sound.name);
        if (same == project.sounds.end()) {
            project.sounds.append(sound);
        }
        sounds.emplace(was, sound.id);
    }
    Level level = *project.levels.find(levelId);
    for (Emitter emitter : found.emitters) {
        emitter.id = level.emitters.freshId(emitter.name);
        if (auto* shared = std::get_if<FalloffId>(&emitter.falloff)) {
            const auto now = falloffs.find(*shared);
            *shared = now != falloffs.end() ? now->second : FalloffId{};
        }
        const auto sound = sounds.find(emitter.sound);
        emitter.sound = sound != sounds.end() ? sound->second : SoundId{};
        level.emitters.append(std::move(emitter));
    }
    project.levels.put(std::move(level));
    return project;
}

std::string uriOf(const std::filesystem::path& file, const std::filesystem::path& fromFolder)
{
    const std::string path = std::filesystem::absolute(file)
                                 .lexically_normal()
                                 .lexically_relative(std::filesystem::absolute(fromFolder).lexically_normal())
                                 .generic_string();
    std::string uri;
    for (const char c : path) {
        const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                           std::string_view("-._~/").find(c) != std::string_view::npos;
        char escaped[4];
        std::snprintf(escaped, sizeof escaped, "%%%02X", static_cast<unsigned>(static_cast<unsigned char>(c)));
        uri += plain ? std::string(1, c) : std::string(escaped);
    }
    return uri;
}

} // namespace stone
