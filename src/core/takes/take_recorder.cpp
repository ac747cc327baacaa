// SPDX-License-Identifier: MPL-2.0
#include "takes/take_recorder.h"

#include "project/edit.h"
#include "project/file_error.h"
#include "takes/take_keeper.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <condition_variable>
#include <ctime>
#include <deque>
#include <fstream>
#include <map>
#include <mutex>
#include <set>
#include <thread>
#include <unordered_map>
#include <utility>
#include <variant>

namespace stone
{

namespace
{

/// Whoever tells waits while more than so much is on its way.
constexpr std::size_t mostWaiting = 4'096;

} // namespace

struct TakeRecorder::State {
    State(const std::filesystem::path& file, TakeInfo given, bool keepsSound, bool mayWait)
        : info(std::move(given)), waits(mayWait), writer(file, written(info, keepsSound)), keeper(writer, info, keepsSound)
    {
        thread = std::thread([this] { run(); });
    }
    ~State() { end(); }

    static TakeInfo written(TakeInfo info, bool keepsSound)
    {
        info.channels = keepsSound ? info.channels : 0;
        return info;
    }

    void give(Come come)
    {
        std::unique_lock lock(mutex);
        if (waits) {
            room.wait(lock, [this] { return queue.size() < mostWaiting || ended || !failed.empty(); });
        }
        if (failed.empty()) {
            queue.push_back(std::move(come));
            come_.notify_one();
        }
    }

    void run()
    {
        for (;;) {
            std::deque<Come> some;
            {
                std::unique_lock lock(mutex);
                come_.wait(lock, [this] { return !queue.empty() || ended; });
                if (queue.empty()) {
                    break;
                }
                some.swap(queue);
                room.notify_all();
            }
            try {
                for (Come& one : some) {
                    std::visit([this](auto&& what) { keeper.take(std::forward<decltype(what)>(what)); }, std::move(one));
                }
            } catch (const std::exception& error) {
                fail(error.what());
                return;
            }
        }
        try {
            keeper.finish();
        } catch (const std::exception& error) {
            fail(error.what());
        }
    }

    void fail(const std::string& what)
    {
        const std::lock_guard lock(mutex);
        failed = what;
        queue.clear();
        room.notify_all();
    }

    void end()
    {
        {
            const std::lock_guard lock(mutex);
            ended = true;
            come_.notify_one();
            room.notify_all();
        }
        if (thread.joinable()) {
            thread.join();
        }
    }

    TakeInfo info;
    bool waits;
    TakeWriter writer;
    TakeKeeper keeper;
    mutable std::mutex mutex;
    std::condition_variable come_;
    std::condition_variable room;
    std::deque<Come> queue;
    std::string failed;
    bool ended = false;
    std::thread thread;

    // Of whoever tells of steps.
    std::atomic<bool> begun{false};
    std::atomic<double> from_s{0.0}; ///< engine time at which the take begins
    std::atomic<double> now_s{0.0};  ///< of the take
    std::atomic<double> memory{0.0};
    double next_s = 0.0;
    double nextBands_s = 0.0;
    std::set<SoundId> soundsMet; ///< whose files were handed over
    SoundCome sound;             ///< that has not been given yet; of whoever brings it
    std::shared_ptr<const Costs> costs;
    std::function<double(double)> walk_s;
    std::weak_ptr<const World> met;
    std::vector<std::uint32_t> emitterNumbers; ///< by emitter of the level
    std::vector<std::uint32_t> roomNumbers;
    std::vector<std::size_t> valueNumbers; ///< by game value of the take: the project's, or none
    std::map<EmitterId, std::uint32_t> emitters;
    std::map<RoomId, std::uint32_t> rooms;
    std::vector<GameValueId> values;
    std::unordered_map<std::uint64_t, std::uint32_t> copies; ///< by take emitter, part and number
    const HearingModel* model = nullptr;
    std::vector<std::pair<std::uint32_t, const Heard*>> order; ///< what is heard, by its number in the take
};

TakeRecorder::TakeRecorder(const std::filesystem::path& file, TakeInfo info, bool keepsSound, bool waits)
    : state_(std::make_unique<State>(file, std::move(info), keepsSound, waits))
{
}

TakeRecorder::~TakeRecorder() = default;

void TakeRecorder::beginAt(double time_s)
{
    state_->from_s = time_s;
    state_->begun = true;
}

void TakeRecorder::followWalk(std::function<double(double level_s)> walk_s)
{
    state_->walk_s = std::move(walk_s);
}

void TakeRecorder::changed(std::shared_ptr<const Project> document, std::string words)
{
    state_->give(DocumentCome{state_->now_s, words, std::move(document)});
    if (state_->now_s > 0.0) {
        state_->give(TakeEvent{state_->now_s, TakeEvent::Kind::edit, std::move(words), 0.0, {}});
    }
}

void TakeRecorder::note(TakeEvent::Kind kind, std::string name)
{
    state_->give(TakeEvent{state_->now_s, kind, std::move(name), 0.0, {}});
}

void TakeRecorder::setMemory(double bytes)
{
    state_->memory = bytes;
}

double TakeRecorder::seconds() const
{
    return state_->now_s;
}

std::string TakeRecorder::failure() const
{
    const std::lock_guard lock(state_->mutex);
    return state_->failed;
}

void TakeRecorder::finish()
{
    if (!state_->sound.frames.empty()) {
        state_->give(std::exchange(state_->sound, SoundCome()));
    }
    state_->end();
    if (const std::string why = failure(); !why.empty()) {
        throw FileError(why);
    }
}

/// After an edit, or at first: the numbers that things of the level have in the take.
void TakeRecorder::meet(const HearingModel& model)
{
    State& s = *state_;
    s.model = &model;
    if (s.met.lock() == model.sharedWorld()) {
        return;
    }
    s.met = model.sharedWorld();
    const Level& level = model.level();
    const Project& project = model.project();
    s.emitterNumbers.clear();
    for (const auto& emitter : level.emitters) {
        const auto [known, fresh] = s.emitters.try_emplace(emitter->id, static_cast<std::uint32_t>(s.emitters.size()));
        if (fresh) {
            const Family* family = project.families.find(emitter->family);
            s.give(TakeEmitter{emitter->id, emitter->name, emitter->kind, emitter->family,
                               family != nullptr ? family->name : std::string()});
        }
        s.emitterNumbers.push_back(known->second);
    }
    s.roomNumbers.clear();
    for (const auto& room : level.rooms) {
        const auto [known, fresh] = s.rooms.try_emplace(room->id, static_cast<std::uint32_t>(s.rooms.size()));
        if (fresh) {
            s.give(RoomCome{room->id.text, room->name});
        }
        s.roomNumbers.push_back(known->second);
    }
    for (const auto& value : project.gameValues) {
        if (std::find(s.values.begin(), s.values.end(), value->id) == s.values.end()) {
            s.values.push_back(value->id);
            s.give(ValueCome{value->id.text, value->name});
        }
    }
}

std::uint32_t TakeRecorder::copyOf(const Start& start)
{
    State& s = *state_;
    const std::uint32_t emitter = s.emitterNumbers[start.emitter];
    const std::uint64_t key = renumbered(keyOf(start), emitter);
    const auto [known, fresh] = s.copies.try_emplace(key, static_cast<std::uint32_t>(s.copies.size()));
    if (fresh) {
        const Sound& sound = *s.model->world().playables()[start.playable].sound;
        s.give(TakeCopy{emitter, static_cast<std::uint8_t>(start.part), start.number, sound.id, sound.name, start.began_s});
    }
    return known->second;
}

TakenMoment TakeRecorder::momentOf(const Control& control, double t_s)
{
    State& s = *state_;
    TakenMoment moment;
    moment.t_s = t_s;
    moment.level_s = control.state().time_s;
    moment.walk_s = s.walk_s ? s.walk_s(moment.level_s) : -1.0;
    moment.feet = control.state().stance.feet;
    moment.ears = control.heardAt()->first;
    moment.voices = static_cast<std::uint32_t>(control.sounding());
    moment.gaveWay = static_cast<std::uint32_t>(control.gaveWay());
    const WorldState& state = control.state();
    for (const GameValueId& id : s.values) {
        const auto index = s.model->project().gameValues.indexOf(id);
        moment.values.push_back(index && *index < state.values.size() ? state.values[*index].at(state.time_s) : 0.0);
    }
    for (const RoomHeard& room : control.roomsHeard()) {
        if (room.level_db > -199.0) {
            moment.rooms.push_back({s.roomNumbers[room.room], room.level_db});
        }
    }
    // In the order of their numbers: these are sorted, not all that is said of each.
    s.order.clear();
    for (const Heard& heard : control.heard()) {
        if (heard.start.playable != Start::nothing && (heard.audible || heard.gaveWay)) {
            s.order.emplace_back(copyOf(heard.start), &heard);
        }
    }
    std::sort(s.order.begin(), s.order.end());
    moment.copies.resize(s.order.size());
    for (std::size_t i = 0; i < s.order.size(); ++i) {
        const Heard& heard = *s.order[i].second;
        TakenCopy& copy = moment.copies[i];
        copy.copy = s.order[i].first;
        copy.audible = heard.audible;
        copy.level_db = heard.level_db;
        copy.at = heard.at;
        copy.direction = heard.direction;
        copy.terms = heard.terms;
        copy.gaveWay = heard.gaveWay;
        if (copy.gaveWay) {
            copy.gaveWay->to = s.emitterNumbers[copy.gaveWay->to];
        }
    }
    return moment;
}

/// What masks what is looked for where somebody matters; the looking is the other thread's.
void TakeRecorder::tellBands(const Control& control, double t_s)
{
    State& s = *state_;
    BandsHeard bands;
    bands.t_s = t_s;
    const auto matters = [&s](const Heard& heard) { return s.model->priority(heard.index) >= Priority::notable; };
    if (std::none_of(s.order.begin(), s.order.end(),
                     [&](const auto& one) { return one.second->audible && matters(*one.second); })) {
        return;
    }
    for (const auto& [copy, heard] : s.order) {
        if (!heard->audible) {
            continue;
        }
        const SharedMaterial& material = control.scene()->materials[heard->start.playable];
        const SoundId& sound = s.model->world().playables()[heard->start.playable].sound->id;
        if (s.soundsMet.insert(sound).second) {
            s.give(FilesCome{sound, material ? material->files : std::vector<SharedBuffer>()});
        }
        bands.copies.push_back({copy, matters(*heard), s.model->bands_db(*heard)});
    }
    s.give(std::move(bands));
}

void TakeRecorder::decided(std::uint64_t step, const Control::Situation& situation, const Control& control)
{
    State& s = *state_;
    const double time_s = static_cast<double>(step * stepFrames) / control.rate();
    if (!s.begun) {
        beginAt(time_s);
    }
    const double t_s = time_s - s.from_s;
    s.now_s = t_s;
    for (const Happening& happening : situation.happenings) {
        TakeEvent event;
        event.t_s = t_s;
        const Project* project = control.scene() ? &control.scene()->model.project() : nullptr;
        if (project == nullptr) {
            continue;
        }
        if (happening.value) {
            const GameValue* value = project->gameValues.find(happening.value->first);
            event.kind = TakeEvent::Kind::value;
            event.name = value != nullptr ? value->name : happening.value->first.text;
            event.number = happening.value->second;
        } else if (happening.burst) {
            event.kind = TakeEvent::Kind::burst;
            event.number = happening.burst->count;
        } else if (happening.cause == Cause::interact) {
            event.kind = TakeEvent::Kind::use;
        } else if (happening.cause == Cause::reset) {
            event.kind = TakeEvent::Kind::reset;
        } else {
            const Signal* signal = project->signalNames.find(happening.signal);
            event.name = signal != nullptr ? signal->name : happening.signal.text;
        }
        s.give(std::move(event));
    }
    if (t_s + 1e-9 < s.next_s || !control.heardAt()) {
        return;
    }
    s.next_s = std::max(s.next_s + takeStep_s, t_s - takeStep_s);
    meet(control.scene()->model);
    s.give(momentOf(control, t_s));
    if (t_s + 1e-9 >= s.nextBands_s) {
        s.nextBands_s = t_s + maskingEvery_s;
        tellBands(control, t_s);
    }
    if (control.costs() && control.costs() != s.costs) {
        s.costs = control.costs();
        s.give(TakenCost{t_s, *s.costs, s.memory});
    }
}

void TakeRecorder::sound(double time_s, std::span<const float> interleaved)
{
    State& s = *state_;
    if (!s.begun) {
        return;
    }
    // Waking the other thread for each step would be most of what recording takes.
    if (s.sound.frames.empty()) {
        s.sound.t_s = time_s - s.from_s;
    }
    s.sound.frames.insert(s.sound.frames.end(), interleaved.begin(), interleaved.end());
    if (static_cast<double>(s.sound.frames.size()) >= takeStep_s * s.info.rate * s.info.channels) {
        s.give(std::exchange(s.sound, SoundCome()));
    }
}

std::string takeTime()
{
    const std::time_t now = std::time(nullptr);
    std::tm utc{};
    gmtime_r(&now, &utc);
    char text[32];
    std::strftime(text, sizeof text, "%Y-%m-%d %H:%M:%S", &utc);
    return text;
}

std::string thisMachine()
{
    std::ifstream in("/proc/cpuinfo");
    for (std::string line; std::getline(in, line);) {
        const std::size_t colon = line.find(": ");
        if (line.starts_with("model name") && colon != std::string::npos) {
            return line.substr(colon + 2) + " x " + std::to_string(std::thread::hardware_concurrency());
        }
    }
    return {};
}

} // namespace stone
