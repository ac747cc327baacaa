// SPDX-License-Identifier: MPL-2.0
#include "project/settings.h"

#include <tuple>

namespace stone
{

namespace
{

/// Calls visit(Setting, member of a, member of b) for each setting.
template <class A, class B, class Visit> void forEachSetting(A& a, B& b, Visit&& visit)
{
    visit(Setting::kind, a.kind, b.kind);
    visit(Setting::sound, a.sound, b.sound);
    visit(Setting::falloff, a.falloff, b.falloff);
    visit(Setting::level, a.level_db, b.level_db);
    visit(Setting::pitch, a.pitch_st, b.pitch_st);
    auto startA = std::tie(a.startAfter_s, a.starting);
    auto startB = std::tie(b.startAfter_s, b.starting);
    visit(Setting::start, startA, startB);
    visit(Setting::family, a.family, b.family);
    visit(Setting::priority, a.priority, b.priority);
    visit(Setting::lanes, a.lanes, b.lanes);
    visit(Setting::placement, a.placement, b.placement);
    visit(Setting::zone, a.zone, b.zone);
    visit(Setting::area, a.area, b.area);
    visit(Setting::sprinkling, a.sprinkling, b.sprinkling);
    visit(Setting::roaming, a.roaming, b.roaming);
    visit(Setting::stepping, a.stepping, b.stepping);
    visit(Setting::pulsing, a.pulsing, b.pulsing);
    visit(Setting::screening, a.screening, b.screening);
}

} // namespace

SettingSet differing(const EmitterSettings& a, const EmitterSettings& b)
{
    SettingSet set;
    forEachSetting(a, b,
                   [&](Setting setting, const auto& x, const auto& y) { set[static_cast<std::size_t>(setting)] = !(x == y); });
    return set;
}

void takeSettings(EmitterSettings& to, const EmitterSettings& from, SettingSet which)
{
    forEachSetting(to, from, [&](Setting setting, auto& x, const auto& y) {
        if (which[static_cast<std::size_t>(setting)]) {
            x = y;
        }
    });
}

const char* settingName(Setting setting)
{
    static constexpr const char* names[settingCount] = {
        "Kind",      "Sound", "Falloff", "Level",    "Pitch",  "Start", "Family", "Priority", "Facing and lanes",
        "Placement", "Zone",  "Area",    "Sprinkle", "Roamer", "Steps", "Pulse",  "Walls"};
    return names[static_cast<std::size_t>(setting)];
}

TwoAngles usualAngles(LaneProperty property)
{
    TwoAngles angles;
    switch (property) {
    case LaneProperty::level:
    case LaneProperty::send: break;
    case LaneProperty::lowPass:
        angles.inside = 20'000.0;
        angles.behind = 2'000.0;
        break;
    case LaneProperty::highPass:
        angles.inside = 20.0;
        angles.behind = 200.0;
        break;
    case LaneProperty::spread:
        angles.inside = 0.0;
        angles.behind = 90.0;
        break;
    case LaneProperty::placement:
        angles.inside = 1.0;
        angles.behind = 0.5;
        break;
    case LaneProperty::nearness:
        angles.inside = 1.0;
        angles.behind = 1.5;
        break;
    case LaneProperty::priority:
        angles.inside = 1.0;
        angles.behind = 0.0;
        break;
    case LaneProperty::interval:
        angles.inside = 0.12;
        angles.behind = 1.0;
        break;
    case LaneProperty::pitch:
        angles.inside = 7.0;
        angles.behind = 0.0;
        break;
    }
    return angles;
}

} // namespace stone
