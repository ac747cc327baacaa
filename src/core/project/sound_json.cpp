// SPDX-License-Identifier: MPL-2.0
#include "project/sound_json.h"

#include "project/fields.h"
#include "project/limit_json.h"

namespace stone
{

namespace
{

constexpr std::size_t mostFiles = 1000;

constexpr const char* makes[] = {"one", "run", "slices", "layers", "mixed"};
constexpr const char* sequenceOrders[] = {"random", "in_turn", "shuffled"};
constexpr const char* keepings[] = {"automatic", "decoded", "compressed", "streamed"};

constexpr Range gain_db{-40.0, 40.0};
constexpr Range hour_s{0.0, 3'600.0};
constexpr Range piece_s{0.05, 3'600.0};

} // namespace

template <class Io> void describe(Io io, const Credit&)
{
    io.text("source", &Credit::source);
    io.text("author", &Credit::author);
    io.text("licence", &Credit::licence);
}

template <class Io> void describe(Io io, const SoundFile&)
{
    io.number("level_db", &SoundFile::level_db, ranges::level_db);
    io.number("loop_from_s", &SoundFile::loopFrom_s, ranges::seconds);
    io.number("loop_to_s", &SoundFile::loopTo_s, ranges::seconds);
    io.flag("accent", &SoundFile::accent);
}

template <class Io> void describe(Io io, const Sequence&)
{
    io.word("order", &Sequence::order, sequenceOrders);
    io.number("gap_least_s", &Sequence::gapLeast_s, hour_s);
    io.upper("gap_most_s", &Sequence::gapMost_s, hour_s, &Sequence::gapLeast_s);
    io.number("gap_chance", &Sequence::gapChance, ranges::share);
    io.number("cross_fade_s", &Sequence::crossFade_s, {0.0, 60.0});
    io.number("slice_least_s", &Sequence::sliceLeast_s, piece_s);
    io.upper("slice_most_s", &Sequence::sliceMost_s, piece_s, &Sequence::sliceLeast_s);
    io.whole("at_once", &Sequence::atOnce, 1, 8);
}

template <class Io> void describe(Io io, const Equaliser&)
{
    io.number("low_hz", &Equaliser::low_hz, ranges::cutoff_hz);
    io.number("low_db", &Equaliser::low_db, gain_db);
    io.number("middle_hz", &Equaliser::middle_hz, ranges::cutoff_hz);
    io.number("middle_db", &Equaliser::middle_db, gain_db);
    io.number("middle_q", &Equaliser::middleQ, {0.1, 20.0});
    io.number("high_hz", &Equaliser::high_hz, ranges::cutoff_hz);
    io.number("high_db", &Equaliser::high_db, gain_db);
}

template <class Io> void describe(Io io, const Saturation&)
{
    io.number("drive_db", &Saturation::drive_db, {0.0, 40.0});
}

template <class Io> void describe(Io io, const Tremolo&)
{
    io.number("rate_hz", &Tremolo::rate_hz, {0.01, 100.0});
    io.number("depth", &Tremolo::depth, ranges::share);
}

template <class Io> void describe(Io io, const Echo&)
{
    io.number("delay_s", &Echo::delay_s, {0.005, 0.5});
    io.number("level_db", &Echo::level_db, {-60.0, -0.5});
    io.number("dull_hz", &Echo::dull_hz, ranges::cutoff_hz);
}

template <class Io> void describe(Io io, const Sound&)
{
    io.word("make", &Sound::make, makes);
    io.flag("loop", &Sound::loop);
    io.number("level_db", &Sound::level_db, ranges::level_db);
    io.number("level_spread_db", &Sound::levelSpread_db, {0.0, 60.0});
    io.number("pitch_spread_st", &Sound::pitchSpread_st, {0.0, 48.0});
    io.number("low_pass_hz", &Sound::lowPass_hz, ranges::cutoff_hz);
    io.number("high_pass_hz", &Sound::highPass_hz, ranges::cutoff_hz);
    io.number("delay_s", &Sound::delay_s, hour_s);
    io.number("fade_in_s", &Sound::fadeIn_s, hour_s);
    io.number("fade_out_s", &Sound::fadeOut_s, hour_s);
    io.flag("binaural", &Sound::binaural);
    io.word("keep", &Sound::keeping, keepings);
}

namespace
{

Credit readCredit(ObjectReader& reader)
{
    Credit credit;
    describe(FieldReader(reader, credit), credit);
    return credit;
}

Drift readDrift(ObjectReader reader, double most, bool level)
{
    Drift drift;
    drift.depth = reader.number("depth", drift.depth, {0.0, most});
    drift.period_s = reader.number("period_s", drift.period_s, {0.1, 3'600.0});
    drift.irregular = reader.flag("irregular", drift.irregular);
    if (level) {
        drift.drawn = readCurve(reader, "drawn", {-most, most});
    }
    if (!reader.rest().empty()) {
        reader.fail("", level ? "a level's drift has depth, period_s, irregular and drawn only; take the other keys out"
                              : "a drift has depth, period_s and irregular only; take the other keys out");
    }
    return drift;
}

void addDrift(Json& json, const char* key, const Drift& drift)
{
    if (!(drift == Drift{})) {
        json[key] = {{"depth", drift.depth}, {"period_s", drift.period_s}};
        addUnless(json[key], "irregular", drift.irregular, false);
        if (!drift.drawn.empty()) {
            json[key]["drawn"] = toJson(drift.drawn);
        }
    }
}

SoundFile readFile(ObjectReader& reader)
{
    SoundFile file;
    file.file = reader.text("file");
    describe(FieldReader(reader, file), file);
    if (file.loopTo_s > 0.0 && file.loopTo_s <= file.loopFrom_s) {
        reader.fail("loop_to_s", "a loop must end after it begins; give more than loop_from_s, or 0 for the file's end");
    }
    if (reader.has("level_drift")) {
        file.levelDrift = readDrift(reader.object("level_drift"), 60.0, true);
    }
    if (reader.has("pitch_drift")) {
        file.pitchDrift = readDrift(reader.object("pitch_drift"), 12.0, false);
    }
    file.credit = readCredit(reader);
    file.extras = reader.rest();
    return file;
}

Json toJson(const SoundFile& file)
{
    Json json{{"file", file.file}};
    describe(FieldWriter(json, file), file);
    addDrift(json, "level_drift", file.levelDrift);
    addDrift(json, "pitch_drift", file.pitchDrift);
    describe(FieldWriter(json, file.credit), file.credit);
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

template <class Effect> void readEffect(ObjectReader& effects, const char* key, Effect& effect)
{
    if (!effects.has(key)) {
        return;
    }
    ObjectReader reader = effects.object(key);
    effect.on = reader.flag("on", true);
    describe(FieldReader(reader, effect), effect);
    effect.extras = reader.rest();
}

template <class Effect> void addEffect(Json& effects, const char* key, const Effect& effect)
{
    if (effect == Effect{}) {
        return;
    }
    Json json{{"on", effect.on}};
    describe(FieldWriter(json, effect), effect);
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

template <> Range rangeOf(double SoundFile::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Sequence::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(int Sequence::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Equaliser::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Saturation::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Tremolo::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Echo::*member)
{
    return describedRange(member);
}

template <> Range rangeOf(double Sound::*member)
{
    return describedRange(member);
}

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
    describe(FieldReader(reader, sound), sound);
    describe(FieldReader(reader, sound.sequence), sound.sequence);
    sound.lanes = readLanes(reader);
    readLimit(reader, sound.limit);
    if (reader.has("effects")) {
        readEffects(reader.object("effects"), sound.effects);
    }
    sound.copiesApart = reader.flag("copies_apart", reader.flag("random_start", false));
    sound.tags = reader.texts("tags");
    sound.extras = reader.rest();
}

Json toJson(const Sound& sound)
{
    Json json{{"id", sound.id.text}, {"name", sound.name}};
    addUnless(json, "folder", sound.folder, {});
    json["files"] = Json::array();
    for (const SoundFile& file : sound.files) {
        json["files"].push_back(toJson(file));
    }
    describe(FieldWriter(json, sound), sound);
    describe(FieldWriter(json, sound.sequence), sound.sequence);
    for (const Lane& lane : sound.lanes) {
        json["lanes"].push_back(toJson(lane));
    }
    if (!(sound.effects == Effects{})) {
        json["effects"] = toJson(sound.effects);
    }
    addLimit(json, sound.limit);
    addUnless(json, "copies_apart", sound.copiesApart, false);
    addUnless(json, "tags", sound.tags, {});
    addExtras(json, sound.extras);
    return json;
}

} // namespace stone
