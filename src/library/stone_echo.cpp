// SPDX-License-Identifier: MPL-2.0
#include "library/stone_echo.h"

#include "library/player.h"
#include "project/file_error.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <new>

using namespace stone;

/// The border: nothing but texts and numbers goes over it, and no exception.
struct stone_project {
    OpenedProject opened;
};

struct stone_player {
    Player player;
};

namespace
{

void say(char* why, size_t size, const std::string& text)
{
    if (why != nullptr && size > 0) {
        const std::size_t count = std::min(text.size(), size - 1);
        std::memcpy(why, text.data(), count);
        why[count] = '\0';
    }
}

/// Does something, and makes a code of what it throws.
template <class Act> stone_code guarded(char* why, size_t size, Act&& act) noexcept
{
    try {
        say(why, size, {});
        return act();
    } catch (const FileError& error) {
        say(why, size, error.what());
        return STONE_UNREADABLE;
    } catch (const std::bad_alloc&) {
        say(why, size, "there is too little memory");
        return STONE_NO_MEMORY;
    } catch (const std::exception& error) {
        say(why, size, error.what());
        return STONE_FAILED;
    } catch (...) {
        return STONE_FAILED;
    }
}

template <class Act> stone_code guarded(Act&& act) noexcept
{
    return guarded(nullptr, 0, std::forward<Act>(act));
}

std::optional<Pose> poseOf(const stone_pose* pose)
{
    constexpr double furthest_m = 100'000.0;
    if (pose == nullptr) {
        return {};
    }
    const double numbers[] = {pose->x, pose->y, pose->z, pose->heading, pose->pitch, pose->roll};
    const bool good = std::all_of(std::begin(numbers), std::end(numbers), [](double n) { return std::isfinite(n); }) &&
                      std::all_of(numbers, numbers + 3, [](double n) { return std::abs(n) <= furthest_m; });
    return good ? std::optional(Pose{{pose->x, pose->y, pose->z}, pose->heading, pose->pitch, pose->roll}) : std::nullopt;
}

/// By name, else by id; null: there is none.
template <class Things> auto named(const Things& things, const char* name) -> decltype(things.begin()->get())
{
    const auto found = [&](const auto& same) {
        const auto it = std::find_if(things.begin(), things.end(), same);
        return it != things.end() ? it->get() : nullptr;
    };
    const auto* byName = found([&](const auto& thing) { return thing->name == name; });
    return byName != nullptr ? byName : found([&](const auto& thing) { return thing->id.text == name; });
}

/// Fills in as much of a struct as the host's version of it has.
template <class Struct> stone_code fill(Struct* to, Struct from)
{
    if (to == nullptr || to->size != sizeof(Struct)) {
        return STONE_BAD_ARGUMENT;
    }
    from.size = to->size;
    *to = from;
    return STONE_OK;
}

stone_heard heardOf(const Player& player, const Heard& heard)
{
    return {sizeof(stone_heard),
            player.model().level().emitters[heard.index]->name.c_str(),
            heard.level_db,
            heard.bearing.distance_m,
            heard.bearing.azimuth_deg,
            heard.bearing.elevation_deg,
            heard.audible ? 1 : 0};
}

const Level* levelAt(const stone_project* project, size_t level)
{
    return project != nullptr && level < project->opened.project->levels.size() ? project->opened.project->levels[level].get()
                                                                                : nullptr;
}

const Walk* walkAt(const stone_project* project, size_t level, size_t walk)
{
    const Level* of = levelAt(project, level);
    return of != nullptr && walk < of->walks.size() ? of->walks[walk].get() : nullptr;
}

const Heard* heardAt(const stone_player* player, size_t index)
{
    return player != nullptr && index < player->player.control().heard().size() ? &player->player.control().heard()[index]
                                                                                : nullptr;
}

} // namespace

const char* stone_version(void)
{
    return STONE_VERSION;
}

int stone_abi(void)
{
    return STONE_ABI;
}

const char* stone_code_text(stone_code code)
{
    switch (code) {
    case STONE_OK: return "it was done";
    case STONE_BAD_ARGUMENT: return "an argument is null, not finite, out of its range, or a struct of no known size";
    case STONE_UNREADABLE: return "a file is not there, or not what it should be";
    case STONE_NOT_THERE: return "nothing is called so";
    case STONE_FULL: return "as many steps are decided as may be; render first";
    case STONE_NO_MEMORY: return "there is too little memory";
    case STONE_FAILED: return "something happened that should not";
    }
    return "no such code";
}

stone_code stone_open(const char* path, stone_project** project, char* why, size_t whySize)
{
    if (path == nullptr || project == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    *project = nullptr;
    return guarded(why, whySize, [&] {
        *project = new stone_project{openProject(path)};
        return STONE_OK;
    });
}

void stone_close(stone_project* project)
{
    delete project;
}

const char* stone_project_name(const stone_project* project)
{
    return project != nullptr ? project->opened.project->name.c_str() : nullptr;
}

size_t stone_level_count(const stone_project* project)
{
    return project != nullptr ? project->opened.project->levels.size() : 0;
}

const char* stone_level_name(const stone_project* project, size_t level)
{
    const Level* of = levelAt(project, level);
    return of != nullptr ? of->name.c_str() : nullptr;
}

size_t stone_walk_count(const stone_project* project, size_t level)
{
    const Level* of = levelAt(project, level);
    return of != nullptr ? of->walks.size() : 0;
}

const char* stone_walk_name(const stone_project* project, size_t level, size_t walk)
{
    const Walk* of = walkAt(project, level, walk);
    return of != nullptr ? of->name.c_str() : nullptr;
}

double stone_walk_seconds(const stone_project* project, size_t level, size_t walk)
{
    const Walk* of = walkAt(project, level, walk);
    return of != nullptr ? of->seconds() : -1.0;
}

stone_code stone_play(const stone_project* project, const stone_options* options, stone_player** player, char* why,
                      size_t whySize)
{
    constexpr int usualRate = 48'000;
    constexpr int leastRate = 44'100;
    constexpr int mostRate = 192'000;
    if (project == nullptr || player == nullptr || (options != nullptr && options->size != sizeof(stone_options))) {
        return STONE_BAD_ARGUMENT;
    }
    *player = nullptr;
    const int rate = options == nullptr || options->rate == 0 ? usualRate : options->rate;
    if (rate < leastRate || rate > mostRate) {
        say(why, whySize, "the rate is 44100 to 192000 frames per second");
        return STONE_BAD_ARGUMENT;
    }
    return guarded(why, whySize, [&] {
        const Project& document = *project->opened.project;
        const Level* level =
            options != nullptr && options->level != nullptr ? named(document.levels, options->level) : document.levels[0].get();
        if (level == nullptr) {
            say(why, whySize, "no level is called \"" + std::string(options->level) + "\"");
            return STONE_NOT_THERE;
        }
        const char* wanted = options != nullptr && options->layout != nullptr ? options->layout : "stereo";
        const auto layout = layoutNamed(wanted);
        if (!layout) {
            say(why, whySize, "no layout is called \"" + std::string(wanted) + "\"; there are " + layoutNames());
            return STONE_NOT_THERE;
        }
        *player = new stone_player{Player(project->opened, level->id, *layout, rate)};
        return STONE_OK;
    });
}

void stone_stop(stone_player* player)
{
    delete player;
}

size_t stone_channels(const stone_player* player)
{
    return player != nullptr ? channelsOf(player->player.layout()) : 0;
}

stone_code stone_restart(stone_player* player)
{
    if (player == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    player->player.restart();
    return STONE_OK;
}

stone_code stone_character(stone_player* player, const stone_pose* feet)
{
    const auto pose = poseOf(feet);
    if (player == nullptr || !pose) {
        return STONE_BAD_ARGUMENT;
    }
    player->player.setFeet(*pose);
    return STONE_OK;
}

stone_code stone_ears(stone_player* player, const stone_pose* ears)
{
    const auto pose = poseOf(ears);
    if (player == nullptr || (ears != nullptr && !pose)) {
        return STONE_BAD_ARGUMENT;
    }
    player->player.setEars(pose);
    return STONE_OK;
}

stone_code stone_camera(stone_player* player, const stone_pose* camera)
{
    const auto pose = poseOf(camera);
    if (player == nullptr || (camera != nullptr && !pose)) {
        return STONE_BAD_ARGUMENT;
    }
    player->player.setCamera(pose);
    return STONE_OK;
}

stone_code stone_thing(stone_player* player, const char* name, const stone_pose* at)
{
    const auto pose = poseOf(at);
    if (player == nullptr || name == nullptr || !pose) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] { return player->player.place(name, *pose) ? STONE_OK : STONE_NOT_THERE; });
}

stone_code stone_appear(stone_player* player, const char* name, const char* pattern, const stone_pose* at)
{
    const auto pose = poseOf(at);
    if (player == nullptr || name == nullptr || pattern == nullptr || !pose) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        const Pattern* of = named(player->player.project().patterns, pattern);
        if (of == nullptr) {
            return STONE_NOT_THERE;
        }
        player->player.appear(name, of->id, *pose);
        return STONE_OK;
    });
}

stone_code stone_gone(stone_player* player, const char* name)
{
    if (player == nullptr || name == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] { return player->player.remove(name) ? STONE_OK : STONE_NOT_THERE; });
}

namespace
{

/// Something happens to a thing of the document.
template <class Things, class Make>
stone_code happen(stone_player* player, const char* name, double number, const Things& (*things)(const Player&), Make&& make)
{
    if (player == nullptr || name == nullptr || !std::isfinite(number)) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        const auto* thing = named(things(player->player), name);
        if (thing == nullptr) {
            return STONE_NOT_THERE;
        }
        player->player.add(make(*thing));
        return STONE_OK;
    });
}

const List<Signal>& signalsOf(const Player& player)
{
    return player.project().signalNames;
}
const List<GameValue>& valuesOf(const Player& player)
{
    return player.project().gameValues;
}
const List<Opening>& openingsOf(const Player& player)
{
    return player.level().openings;
}

} // namespace

stone_code stone_signal(stone_player* player, const char* name)
{
    return happen(player, name, 0.0, signalsOf,
                  [](const Signal& signal) { return Happening{.cause = Cause::signal, .signal = signal.id}; });
}

stone_code stone_value(stone_player* player, const char* name, double value)
{
    return happen(player, name, value, valuesOf,
                  [&](const GameValue& known) { return Happening{.value = std::pair(known.id, value)}; });
}

stone_code stone_opening(stone_player* player, const char* name, double share)
{
    return happen(player, name, share, openingsOf,
                  [&](const Opening& known) { return Happening{.opening = std::pair(known.id, share)}; });
}

stone_code stone_step(stone_player* player, const char* material)
{
    if (player == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        player->player.add({.step = std::string(material != nullptr ? material : "")});
        return STONE_OK;
    });
}

stone_code stone_act(stone_player* player, const char* act)
{
    if (player == nullptr || act == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        const auto cause = actNamed(act);
        if (!cause) {
            return STONE_NOT_THERE;
        }
        player->player.add({.cause = *cause});
        return STONE_OK;
    });
}

stone_code stone_along_walk(stone_player* player, const char* name, double time_s)
{
    if (player == nullptr || name == nullptr || !std::isfinite(time_s)) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        const Walk* walk = named(player->player.level().walks, name);
        if (walk == nullptr) {
            return STONE_NOT_THERE;
        }
        player->player.followWalk(*walk, time_s);
        return STONE_OK;
    });
}

stone_code stone_decide(stone_player* player)
{
    if (player == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] { return player->player.decide() ? STONE_OK : STONE_FULL; });
}

size_t stone_ahead(const stone_player* player)
{
    return player != nullptr ? player->player.ahead() : 0;
}

stone_code stone_render(stone_player* player, float* interleaved, size_t frames)
{
    if (player == nullptr || (interleaved == nullptr && frames > 0)) {
        return STONE_BAD_ARGUMENT;
    }
    player->player.render(interleaved, frames);
    return STONE_OK;
}

stone_code stone_stream(stone_player* player)
{
    if (player == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        player->player.stream();
        return STONE_OK;
    });
}

size_t stone_heard_count(const stone_player* player)
{
    return player != nullptr ? player->player.control().heard().size() : 0;
}

stone_code stone_heard_at(const stone_player* player, size_t index, stone_heard* heard)
{
    const Heard* one = heardAt(player, index);
    return one != nullptr ? fill(heard, heardOf(player->player, *one)) : STONE_NOT_THERE;
}

size_t stone_term_count(const stone_player* player, size_t index)
{
    const Heard* one = heardAt(player, index);
    return one != nullptr ? one->terms.size() : 0;
}

stone_code stone_term_at(const stone_player* player, size_t index, size_t term, stone_term* out)
{
    const Heard* one = heardAt(player, index);
    if (one == nullptr || term >= one->terms.size()) {
        return STONE_NOT_THERE;
    }
    const Term& of = one->terms.begin()[term];
    return fill(out, stone_term{sizeof(stone_term), termName(of.kind), of.db});
}

stone_code stone_count(const stone_player* player, stone_counts* counts)
{
    if (player == nullptr) {
        return STONE_BAD_ARGUMENT;
    }
    const Player& of = player->player;
    const Control& control = of.control();
    double deciding = 0.0;
    double mixing = 0.0;
    if (const auto& costs = control.costs(); costs && costs->span_s > 0.0) {
        deciding = (costs->of(CostStage::deciding) + costs->of(CostStage::ordering)) / costs->span_s;
        mixing = costs->total_s() / costs->span_s - deciding;
    }
    return fill(counts, stone_counts{sizeof(stone_counts), control.state().time_s, of.model().level().emitters.size(),
                                     control.heard().size(), control.sounding(), control.gaveWay(), of.mixer().lateSteps(),
                                     control.starved(), deciding, mixing});
}

stone_code stone_probe(const stone_player* player, const char* emitter, const stone_pose* ears, stone_heard* heard,
                       stone_term* terms, size_t most, size_t* count)
{
    const auto pose = poseOf(ears);
    if (player == nullptr || emitter == nullptr || !pose) {
        return STONE_BAD_ARGUMENT;
    }
    return guarded([&] {
        const Level& level = player->player.model().level();
        const Emitter* one = named(level.emitters, emitter);
        if (one == nullptr) {
            return STONE_NOT_THERE;
        }
        const auto index = static_cast<std::uint32_t>(*level.emitters.indexOf(one->id));
        const Heard found = player->player.model().hearOne(Moment(*pose, TimeSpan{}), index);
        if (count != nullptr) {
            *count = found.terms.size();
        }
        for (std::size_t i = 0; terms != nullptr && i < std::min<std::size_t>(most, found.terms.size()); ++i) {
            const Term& of = found.terms.begin()[i];
            if (const stone_code code = fill(terms + i, stone_term{sizeof(stone_term), termName(of.kind), of.db});
                code != STONE_OK) {
                return code;
            }
        }
        return fill(heard, heardOf(player->player, found));
    });
}
