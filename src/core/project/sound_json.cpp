#include "project/sound_json.h"

#include "project/lane_json.h"

namespace stone
{

namespace
{

constexpr std::size_t mostFiles = 1000;

constexpr const char* makes[] = {"one", "run", "slices", "layers", "mixed"};
constexpr const char* orders[] = {"random", "in_turn", "shuffled"};
constexpr const char* keepings[] = {"automatic", "decoded", "compressed", "streamed"};

constexpr Range audible_hz{1.0, 200'000.0};
constexpr Range gain_db{-40.0, 40.0};
constexpr Range hour_s{0.0, 3'600.0};

template <class Word, std::size_t count>
void readWord(ObjectReader& reader, const char* key, Word& word, const char* const (&words)[count])
{
    word = static_cast<Word>(reader.word(key, static_cast<std::size_t>(word), words));
}

void readNumber(ObjectReader& reader, const char* key, double& number, Range range)
{
    number = reader.number(key, number, range);
}

Credit readCredit(ObjectReader& reader)
{
    return {reader.text("source"), reader.text("author"), reader.text("licence")};
}

void addCredit(Json& json, const Credit& credit)
{
    addUnless(json, "source", credit.source, {});
    addUnless(json, "author", credit.author, {});
    addUnless(json, "licence", credit.licence, {});
}

Drift readDrift(ObjectReader reader, double most)
{
    Drift drift;
    readNumber(reader, "depth", drift.depth, {0.0, most});
    readNumber(reader, "period_s", drift.period_s, {0.1, 3'600.0});
    drift.irregular = reader.flag("irregular", drift.irregular);
    if (!reader.rest().empty()) {
        reader.fail("", "a drift has depth, period_s and irregular only; take the other keys out");
    }
    return drift;
}

void addDrift(Json& json, const char* key, const Drift& drift)
{
    if (!(drift == Drift{})) {
        json[key] = {{"depth", drift.depth}, {"period_s", drift.period_s}};
        addUnless(json[key], "irregular", drift.irregular, false);
    }
}

SoundFile readFile(ObjectReader& reader)
{
    SoundFile file;
    file.file = reader.text("file");
    readNumber(reader, "level_db", file.level_db, ranges::level_db);
    readNumber(reader, "loop_from_s", file.loopFrom_s, ranges::seconds);
    readNumber(reader, "loop_to_s", file.loopTo_s, ranges::seconds);
    if (file.loopTo_s > 0.0 && file.loopTo_s <= file.loopFrom_s) {
        reader.fail("loop_to_s", "a loop must end after it begins; give more than loop_from_s, or 0 for the file's end");
    }
    file.accent = reader.flag("accent", false);
    if (reader.has("level_drift")) {
        file.levelDrift = readDrift(reader.object("level_drift"), 60.0);
    }
    if (reader.has("pitch_drift")) {
        file.pitchDrift = readDrift(reader.object("pitch_drift"), 12.0);
    }
    file.credit = readCredit(reader);
    file.extras = reader.rest();
    return file;
}

Json toJson(const SoundFile& file)
{
    Json json{{"file", file.file}};
    addUnless(json, "level_db", file.level_db, 0.0);
    addUnless(json, "loop_from_s", file.loopFrom_s, 0.0);
    addUnless(json, "loop_to_s", file.loopTo_s, 0.0);
    addUnless(json, "accent", file.accent, false);
    addDrift(json, "level_drift", file.levelDrift);
    addDrift(json, "pitch_drift", file.pitchDrift);
    addCredit(json, file.credit);
    addExtras(json, file.extras);
    return json;
}

std::vector<Lane> readLanes(ObjectReader& reader)
{
    std::vector<Lane> lanes;
    reader.each("lanes", [&](ObjectReader& item) {
        Lane lane = readLane(item);
        if (lane.over != LaneInput::time || lane.property > LaneProperty::highPass) {
            item.fail("over", "a sound's lanes draw level, low_pass or high_pass over time; put this one under an emitter");
        }
        for (const Lane& other : lanes) {
            if (other.property == lane.property) {
                item.fail("property", "a sound draws each property once; merge the two lanes");
            }
        }
        lanes.push_back(std::move(lane));
    });
    return lanes;
}

void readSequence(ObjectReader& reader, Sequence& sequence)
{
    readWord(reader, "order", sequence.order, orders);
    readNumber(reader, "gap_least_s", sequence.gapLeast_s, hour_s);
    sequence.gapMost_s = sequence.gapLeast_s;
    readNumber(reader, "gap_most_s", sequence.gapMost_s, hour_s);
    if (sequence.gapMost_s < sequence.gapLeast_s) {
        reader.fail("gap_most_s", "less than gap_least_s; exchange the two");
    }
    readNumber(reader, "gap_chance", sequence.gapChance, {0.0, 1.0});
    readNumber(reader, "cross_fade_s", sequence.crossFade_s, {0.0, 60.0});
    readNumber(reader, "slice_least_s", sequence.sliceLeast_s, {0.05, 3'600.0});
    sequence.sliceMost_s = std::max(sequence.sliceMost_s, sequence.sliceLeast_s);
    readNumber(reader, "slice_most_s", sequence.sliceMost_s, {0.05, 3'600.0});
    if (sequence.sliceMost_s < sequence.sliceLeast_s) {
        reader.fail("slice_most_s", "less than slice_least_s; exchange the two");
    }
    sequence.atOnce = static_cast<int>(reader.whole("at_once", static_cast<std::uint64_t>(sequence.atOnce), 1, 8));
}

void addSequence(Json& json, const Sequence& sequence)
{
    const Sequence usual;
    addUnless(json, "order", orders[static_cast<std::size_t>(sequence.order)], orders[0]);
    addUnless(json, "gap_least_s", sequence.gapLeast_s, usual.gapLeast_s);
    addUnless(json, "gap_most_s", sequence.gapMost_s, sequence.gapLeast_s);
    addUnless(json, "gap_chance", sequence.gapChance, usual.gapChance);
    addUnless(json, "cross_fade_s", sequence.crossFade_s, usual.crossFade_s);
    addUnless(json, "slice_least_s", sequence.sliceLeast_s, usual.sliceLeast_s);
    addUnless(json, "slice_most_s", sequence.sliceMost_s, std::max(usual.sliceMost_s, sequence.sliceLeast_s));
    addUnless(json, "at_once", sequence.atOnce, usual.atOnce);
}

/// Each effect's keys with its numbers, in one place for both ways.
template <class Visit> void visit(Equaliser& e, Visit&& number)
{
    number("low_hz", e.low_hz, audible_hz);
    number("low_db", e.low_db, gain_db);
    number("middle_hz", e.middle_hz, audible_hz);
    number("middle_db", e.middle_db, gain_db);
    number("middle_q", e.middleQ, {0.1, 20.0});
    number("high_hz", e.high_hz, audible_hz);
    number("high_db", e.high_db, gain_db);
}

template <class Visit> void visit(Saturation& s, Visit&& number)
{
    number("drive_db", s.drive_db, {0.0, 40.0});
}

template <class Visit> void visit(Tremolo& t, Visit&& number)
{
    number("rate_hz", t.rate_hz, {0.01, 100.0});
    number("depth", t.depth, {0.0, 1.0});
}

template <class Visit> void visit(Echo& e, Visit&& number)
{
    number("delay_s", e.delay_s, {0.005, 0.5});
    number("level_db", e.level_db, {-60.0, -0.5});
    number("dull_hz", e.dull_hz, audible_hz);
}

template <class Effect> void readEffect(ObjectReader& effects, const char* key, Effect& effect)
{
    if (!effects.has(key)) {
        return;
    }
    ObjectReader reader = effects.object(key);
    effect.on = reader.flag("on", true);
    visit(effect, [&](const char* name, double& value, Range range) { readNumber(reader, name, value, range); });
    effect.extras = reader.rest();
}

template <class Effect> void addEffect(Json& effects, const char* key, Effect effect)
{
    if (effect == Effect{}) {
        return;
    }
    Json json{{"on", effect.on}};
    visit(effect, [&](const char* name, double& value, Range) { json[name] = value; });
    addExtras(json, effect.extras);
    effects[key] = std::move(json);
}

void readEffects(ObjectReader reader, Effects& effects)
{
    readEffect(reader, "equaliser", effects.equaliser);
    readEffect(reader, "saturation", effects.saturation);
    readEffect(reader, "tremolo", effects.tremolo);
    readEffect(reader, "echo", effects.echo);
    effects.extras = reader.rest();
}

Json toJson(const Effects& effects)
{
    Json json = Json::object();
    addEffect(json, "equaliser", effects.equaliser);
    addEffect(json, "saturation", effects.saturation);
    addEffect(json, "tremolo", effects.tremolo);
    addEffect(json, "echo", effects.echo);
    addExtras(json, effects.extras);
    return json;
}

} // namespace

void readSound(ObjectReader& reader, Sound& sound)
{
    sound.folder = reader.text("folder");
    if (reader.has("file")) {
        SoundFile file;
        file.file = reader.text("file");
        file.credit = readCredit(reader);
        if (!file.file.empty()) {
            sound.files.push_back(std::move(file));
        }
    }
    reader.each("files", [&](ObjectReader& item) {
        sound.files.push_back(readFile(item));
        if (sound.files.size() > mostFiles) {
            reader.fail("files", "a sound has at most " + std::to_string(mostFiles) + " files; make several sounds");
        }
    });
    readWord(reader, "make", sound.make, makes);
    readSequence(reader, sound.sequence);
    sound.loop = reader.flag("loop", sound.loop);
    readNumber(reader, "level_db", sound.level_db, ranges::level_db);
    readNumber(reader, "level_spread_db", sound.levelSpread_db, {0.0, 60.0});
    readNumber(reader, "pitch_spread_st", sound.pitchSpread_st, {0.0, 48.0});
    readNumber(reader, "low_pass_hz", sound.lowPass_hz, audible_hz);
    readNumber(reader, "high_pass_hz", sound.highPass_hz, audible_hz);
    readNumber(reader, "delay_s", sound.delay_s, hour_s);
    readNumber(reader, "fade_in_s", sound.fadeIn_s, hour_s);
    readNumber(reader, "fade_out_s", sound.fadeOut_s, hour_s);
    sound.lanes = readLanes(reader);
    if (reader.has("effects")) {
        readEffects(reader.object("effects"), sound.effects);
    }
    sound.copiesApart = reader.flag("copies_apart", reader.flag("random_start", false));
    sound.binaural = reader.flag("binaural", false);
    readWord(reader, "keep", sound.keeping, keepings);
    sound.tags = reader.texts("tags");
    sound.extras = reader.rest();
}

Json toJson(const Sound& sound)
{
    Json json{{"id", sound.id.text}, {"name", sound.name}};
    const Sound usual;
    addUnless(json, "folder", sound.folder, {});
    json["files"] = Json::array();
    for (const SoundFile& file : sound.files) {
        json["files"].push_back(toJson(file));
    }
    addUnless(json, "make", makes[static_cast<std::size_t>(sound.make)], makes[0]);
    addSequence(json, sound.sequence);
    json["loop"] = sound.loop;
    addUnless(json, "level_db", sound.level_db, 0.0);
    addUnless(json, "level_spread_db", sound.levelSpread_db, 0.0);
    addUnless(json, "pitch_spread_st", sound.pitchSpread_st, 0.0);
    addUnless(json, "low_pass_hz", sound.lowPass_hz, usual.lowPass_hz);
    addUnless(json, "high_pass_hz", sound.highPass_hz, usual.highPass_hz);
    addUnless(json, "delay_s", sound.delay_s, 0.0);
    addUnless(json, "fade_in_s", sound.fadeIn_s, 0.0);
    addUnless(json, "fade_out_s", sound.fadeOut_s, 0.0);
    for (const Lane& lane : sound.lanes) {
        json["lanes"].push_back(toJson(lane));
    }
    if (!(sound.effects == Effects{})) {
        json["effects"] = toJson(sound.effects);
    }
    addUnless(json, "copies_apart", sound.copiesApart, false);
    addUnless(json, "binaural", sound.binaural, false);
    addUnless(json, "keep", keepings[static_cast<std::size_t>(sound.keeping)], keepings[0]);
    addUnless(json, "tags", sound.tags, {});
    addExtras(json, sound.extras);
    return json;
}

} // namespace stone
