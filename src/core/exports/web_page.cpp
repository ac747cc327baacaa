// SPDX-License-Identifier: MPL-2.0
#include "exports/web_page.h"

#include "exports/web_page_template.h"
#include "level/ground.h"
#include "level/plan_cut.h"
#include "media/base64.h"
#include "project/edit.h"
#include "project/lane_json.h"
#include "world/walk_pose.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

namespace stone
{

namespace
{

using PageJson = nlohmann::ordered_json;

/// A line of what is left out names so many at most.
constexpr std::size_t mostNames = 6;

PageJson numbers(const Vec3& at)
{
    return {at.x, at.y, at.z};
}

/// What is left out, each thing with those that it is about.
class LeftOut
{
public:
    void add(const std::string& what, const std::string& whose = {})
    {
        const auto known = std::find_if(lines_.begin(), lines_.end(), [&](const auto& line) { return line.first == what; });
        auto& names = known != lines_.end() ? known->second : lines_.emplace_back(what, std::vector<std::string>{}).second;
        if (!whose.empty()) {
            names.push_back(whose);
        }
    }

    std::vector<std::string> lines() const
    {
        std::vector<std::string> all;
        for (const auto& [what, names] : lines_) {
            std::string line = what;
            for (std::size_t i = 0; i < std::min(names.size(), mostNames); ++i) {
                line += (i == 0 ? ": " : ", ") + names[i];
            }
            if (names.size() > mostNames) {
                line += " and " + std::to_string(names.size() - mostNames) + " more";
            }
            all.push_back(line);
        }
        return all;
    }

private:
    std::vector<std::pair<std::string, std::vector<std::string>>> lines_;
};

class Page
{
public:
    Page(const Project& project, const Level& level, const std::function<std::string(const SoundFile&)>& bytesOf)
        : project_(project), level_(level), bytesOf_(bytesOf)
    {
    }

    WebPage make(const std::vector<std::vector<Vec2>>& outline)
    {
        for (const auto& emitter : level_.emitters) {
            add(*emitter);
        }
        const auto leaveOut = [&](bool any, const char* what) {
            if (any) {
                left_.add(what);
            }
        };
        leaveOut(!std::holds_alternative<std::monostate>(level_.geometry),
                 "walls: what stands between takes nothing away, and stops nobody");
        leaveOut(!level_.rooms.empty(), "rooms and their reverb");
        leaveOut(!level_.zones.empty(), "zones, and what fades in them");
        leaveOut(!project_.gazes.empty(), "what somebody looks at");
        Character character = level_.character;
        PageJson data{{"emitters", emitters_},
                      {"sounds", sounds_},
                      {"outline", PageJson::array()},
                      {"walks", PageJson::array()},
                      {"start", {character.start.x, character.start.y, character.start.z, character.heading_deg}},
                      {"ears", character.earsHeight_m},
                      {"speed", character.speed_m_s},
                      {"headphones", true},
                      {"without", left_.lines()}};
        for (const auto& line : outline) {
            PageJson points = PageJson::array();
            for (const Vec2& p : line) {
                points.push_back({std::round(p.x * 1000.0) / 1000.0, std::round(p.y * 1000.0) / 1000.0});
            }
            data["outline"].push_back(std::move(points));
        }
        for (const auto& walk : level_.walks) {
            PageJson points = PageJson::array();
            double heading = 0.0;
            for (const WalkPoint& point : walk->points) {
                // The short way round from where it was.
                const double now = walkPose(*walk, point.t_s).heading_deg;
                heading = points.empty() ? now : heading + wrapDegrees(now - heading);
                points.push_back({point.t_s, point.at.x, point.at.y, point.at.z, heading});
            }
            data["walks"].push_back({{"name", walk->name}, {"points", std::move(points)}});
        }
        WebPage page{filled(data), emitters_.size(), left_.lines()};
        return page;
    }

private:
    std::optional<std::size_t> soundOf(const Sound& sound)
    {
        const std::string& file = sound.files.front().file;
        if (const auto known = soundByFile_.find(file); known != soundByFile_.end()) {
            return known->second;
        }
        const std::string bytes = bytesOf_(sound.files.front());
        if (bytes.empty()) {
            return {};
        }
        sounds_.push_back(base64(bytes));
        soundByFile_.emplace(file, sounds_.size() - 1);
        return sounds_.size() - 1;
    }

    void add(const Emitter& emitter)
    {
        const bool everywhere = emitter.kind == EmitterKind::bed && emitter.zone.empty();
        const Sound* sound = project_.sounds.find(emitter.sound);
        const Lane& level = falloffOf(project_, emitter).lanes.front();
        if (emitter.muted) {
            return;
        }
        if (emitter.kind != EmitterKind::point && !everywhere) {
            left_.add("areas, ambiences of zones, chance, ways, steps and pulses", emitter.name);
            return;
        }
        if (sound == nullptr || sound->files.empty()) {
            left_.add("what has no sound", emitter.name);
            return;
        }
        const bool begins = std::any_of(emitter.starting.starts.begin(), emitter.starting.starts.end(),
                                        [](const Trigger& trigger) { return trigger.cause == Cause::level; });
        if (!begins) {
            left_.add("what waits for something to start it", emitter.name);
            return;
        }
        if (!everywhere && (level.shape != LaneShape::formula || !level.on)) {
            left_.add("falloffs that are drawn", emitter.name);
            return;
        }
        const auto index = soundOf(*sound);
        if (!index) {
            left_.add("sounds that cannot be read", emitter.name);
            return;
        }
        PageJson made{{"name", emitter.name},
                      {"sound", *index},
                      {"loop", sound->loop},
                      {"level", emitter.level_db + sound->level_db + sound->files.front().level_db + familyLevel(emitter)},
                      {"everywhere", everywhere}};
        bool part = falloffOf(project_, emitter).lanes.size() > 1 || sound->files.size() > 1 || sound->make != Make::one;
        if (!everywhere) {
            TwoAngles cone{.inner_deg = 360.0, .outer_deg = 360.0, .inside = 0.0, .behind = 0.0};
            for (const Lane& lane : emitter.lanes) {
                const bool front = lane.on && lane.property == LaneProperty::level && lane.over == LaneInput::offFront &&
                                   lane.shape == LaneShape::twoAngles;
                cone = front ? lane.angles : cone;
                part = part || (lane.on && !front);
            }
            made["level"] = made["level"].get<double>() + cone.inside;
            const DistanceFormula& f = level.formula;
            made.update({{"at", numbers(emitter.at)},
                         {"heading", emitter.heading_deg},
                         {"tilt", emitter.tilt_deg},
                         {"model", wordOf(f.model)},
                         {"ref", f.reference_m},
                         {"max", f.maximum_m},
                         {"factor", f.factor},
                         {"silent", f.silentAt_m},
                         {"inner", cone.inner_deg},
                         {"outer", cone.outer_deg},
                         {"outerGain", std::pow(10.0, (cone.behind - cone.inside) / 20.0)}});
        }
        if (part) {
            left_.add("filters and other lanes, and variations", emitter.name);
        }
        emitters_.push_back(std::move(made));
    }

    double familyLevel(const Emitter& emitter) const
    {
        const Family* family = project_.families.find(emitter.family);
        return family != nullptr ? family->level_db : 0.0;
    }

    std::string filled(const PageJson& data) const
    {
        std::string html = webPageTemplate;
        const auto put = [&](const std::string& mark, const std::string& text) {
            for (std::size_t at = html.find(mark); at != std::string::npos; at = html.find(mark, at + text.size())) {
                html.replace(at, mark.size(), text);
            }
        };
        std::string title;
        for (const char c : level_.name + " – " + project_.name) {
            title += c == '<' ? "&lt;" : c == '&' ? "&amp;" : std::string(1, c);
        }
        put("@TITLE@", title);
        // Nothing in a name may end the script that it stands in.
        std::string json = data.dump();
        for (std::size_t at = json.find("</"); at != std::string::npos; at = json.find("</", at + 3)) {
            json.insert(at + 1, "\\");
        }
        put("@DATA@", json);
        return html;
    }

    const Project& project_;
    const Level& level_;
    const std::function<std::string(const SoundFile&)>& bytesOf_;
    PageJson emitters_ = PageJson::array();
    PageJson sounds_ = PageJson::array();
    std::map<std::string, std::size_t> soundByFile_;
    LeftOut left_;
};

} // namespace

WebPage webPageOf(const Project& planted, const LevelId& level, const std::vector<std::vector<Vec2>>& outline,
                  const std::function<std::string(const SoundFile&)>& bytesOf)
{
    return Page(planted, *planted.levels.find(level), bytesOf).make(outline);
}

std::vector<std::vector<Vec2>> pageOutline(const Level& level, const Ground* ground)
{
    std::vector<std::vector<Vec2>> lines;
    if (ground == nullptr || ground->mesh().triangles.empty()) {
        return lines;
    }
    for (const Outline& outline :
         PlanCutter(ground->mesh()).at(level.character.start.z + level.character.earsHeight_m).outlines) {
        lines.push_back(outline.points);
        if (outline.closed && !outline.points.empty()) {
            lines.back().push_back(outline.points.front());
        }
    }
    return lines;
}

} // namespace stone
