// SPDX-License-Identifier: MPL-2.0
#include "analysis/run_findings.h"

#include "analysis/words.h"
#include "project/edit.h"

#include <algorithm>
#include <cmath>

namespace stone
{

namespace
{

/// The way is looked at each so many metres.
constexpr double lookEach_m = 0.5;
/// What sounds so near to an edge tells of it.
constexpr double atEdge_m = 2.0;

bool tellsOf(const Emitter& emitter, EdgeKind kind)
{
    return emitter.kind == EmitterKind::pulse && !emitter.muted &&
           (kind == EdgeKind::drop ? emitter.pulsing.drops : emitter.pulsing.walls);
}

bool soundsAt(const Emitter& emitter, const Vec3& place)
{
    return isOnPlan(emitter) && !emitter.muted && glm::distance(emitter.at, place) < atEdge_m;
}

/// Calls look(place) along a walk.
template <class Look> void eachPlaceOf(const Walk& walk, const Look& look)
{
    for (std::size_t i = 1; i < walk.points.size(); ++i) {
        const Vec3& from = walk.points[i - 1].at;
        const Vec3 way = walk.points[i].at - from;
        const auto steps = static_cast<int>(std::floor(glm::length(way) / lookEach_m));
        for (int step = 0; step < steps; ++step) {
            look(from + way * ((step + 0.5) / steps));
        }
    }
}

struct Untold {
    double metres = 0.0;
    Vec3 first{0.0};
};

void findUntold(const Level& level, const Walk& walk, EdgeKind kind, const FloorEdges& edges, std::vector<Finding>& found)
{
    const bool told =
        std::any_of(level.emitters.begin(), level.emitters.end(), [&](const auto& e) { return tellsOf(*e, kind); });
    if (told) {
        return;
    }
    EdgeKindSet kinds;
    kinds.set(static_cast<std::size_t>(kind));
    constexpr double quarter_deg = 90.0;
    Untold untold;
    eachPlaceOf(walk, [&](const Vec3& place) {
        for (double heading = 0.0; heading < 360.0; heading += quarter_deg) {
            const auto edge = edges.ahead(place, heading, quarter_deg / 2.0, kinds, level.edges.stride_m);
            if (edge && std::none_of(level.emitters.begin(), level.emitters.end(),
                                     [&](const auto& e) { return soundsAt(*e, edge->at); })) {
                untold.first = untold.metres > 0.0 ? untold.first : place;
                untold.metres += lookEach_m;
                return;
            }
        }
    });
    if (untold.metres <= 0.0) {
        return;
    }
    const std::string where = number("%.1f", untold.first.x) + ", " + number("%.1f", untold.first.y);
    Finding finding;
    finding.code = "run-edge-silent";
    finding.severity = Finding::Severity::warning;
    finding.what = number("%.0f m", untold.metres) + " of " + quoted(walk.name) + " pass within a stride of a " + wordOf(kind) +
                   " that nothing tells of, first at " + where + ": who does not see cannot run it";
    finding.where = "walk " + quoted(walk.name);
    finding.fix = std::string("add a pulse that tells of ") + wordOf(kind) + "s, or plant sounds along those edges";
    finding.level = level.id;
    found.push_back(std::move(finding));
}

} // namespace

void findInRuns(const Level& level, const FloorEdges* edges, std::vector<Finding>& found)
{
    for (const auto& walk : level.walks) {
        const GoalRun& run = walk->run;
        std::vector<ZoneId> named{run.goal};
        named.insert(named.end(), run.checkpoints.begin(), run.checkpoints.end());
        named.insert(named.end(), run.pits.begin(), run.pits.end());
        for (const ZoneId& zone : named) {
            if (!zone.empty() && level.zones.find(zone) == nullptr) {
                Finding finding;
                finding.code = "run-zone-gone";
                finding.severity = Finding::Severity::warning;
                finding.what = "the run " + quoted(walk->name) + " goes by the zone " + quoted(zone.text) + ", which is gone";
                finding.where = "walk " + quoted(walk->name);
                finding.fix = "choose another zone on the walk's page";
                finding.level = level.id;
                found.push_back(std::move(finding));
            }
        }
        if (!run.goal.empty() && edges != nullptr) {
            findUntold(level, *walk, EdgeKind::drop, *edges, found);
            findUntold(level, *walk, EdgeKind::wall, *edges, found);
        }
    }
}

} // namespace stone
