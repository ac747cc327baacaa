// SPDX-License-Identifier: MPL-2.0
#include "exports/tables.h"
#include "project/edit.h"
#include "project/file_error.h"
#include "project/unlike_names.h"
#include "project/violations.h"

#include <charconv>
#include <cmath>
#include <map>
#include <optional>

namespace stone
{

namespace
{

/// One row of a table, by the names of its columns.
class Fields
{
public:
    Fields(const CsvTable& table, std::size_t row) : table_(table), row_(row) {}

    bool has(const char* column) const { return table_.column(column) != SIZE_MAX; }
    /// Empty where there is no such column.
    const std::string& text(const char* column) const
    {
        static const std::string none;
        const std::size_t at = table_.column(column);
        return at == SIZE_MAX ? none : table_.rows[row_][at];
    }

    [[noreturn]] void fail(const std::string& what) const
    {
        const std::size_t line = row_ < table_.lines.size() ? table_.lines[row_] : row_ + 2;
        throw FileError(table_.name + ".csv, line " + std::to_string(line) + ": " + what);
    }

    /// Nothing where the column is not there, or empty.
    std::optional<double> number(const char* column) const
    {
        const std::string& digits = text(column);
        if (digits.empty()) {
            return {};
        }
        double value = 0.0;
        const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
        if (error != std::errc{} || end != digits.data() + digits.size() || !std::isfinite(value)) {
            fail(std::string(column) + " is \"" + digits + "\": a number is needed, with a point for decimals");
        }
        return value;
    }

    void takeNumber(const char* column, double& to) const { to = number(column).value_or(to); }
    void takePlace(Vec3& to) const
    {
        takeNumber("east_m", to.x);
        takeNumber("north_m", to.y);
        takeNumber("up_m", to.z);
    }

    std::optional<bool> flag(const char* column) const
    {
        const std::string& word = text(column);
        if (word.empty()) {
            return {};
        }
        if (word != "yes" && word != "no") {
            fail(std::string(column) + " is \"" + word + "\": \"yes\" or \"no\" is needed");
        }
        return word == "yes";
    }

    /// The id of something of a list; empty where the field is.
    template <class List> auto reference(const char* column, const List& list, const char* kind) const
    {
        decltype(list[0]->id) id{text(column)};
        if (!id.empty() && list.find(id) == nullptr) {
            fail(std::string(column) + ": there is no " + kind + " \"" + id.text + "\" in the project");
        }
        return id;
    }

private:
    const CsvTable& table_;
    std::size_t row_;
};

/// The level of a row: the one that it names, or the only one.
LevelId levelOf(const Project& project, const Fields& fields)
{
    if (!fields.has("level") && project.levels.size() == 1) {
        return project.levels[0]->id;
    }
    const LevelId id{fields.text("level")};
    if (project.levels.find(id) == nullptr) {
        fields.fail("level: there is no level \"" + id.text + "\" in the project");
    }
    return id;
}

EmitterKind kindOf(const Fields& fields)
{
    const std::string& word = fields.text("kind");
    constexpr int kinds = static_cast<int>(EmitterKind::pulse) + 1;
    for (int i = 0; i < kinds; ++i) {
        if (word == wordOf(static_cast<EmitterKind>(i))) {
            return static_cast<EmitterKind>(i);
        }
    }
    if (!word.empty()) {
        fields.fail("kind: \"" + word + "\" is none, as point or bed are");
    }
    return EmitterKind::point;
}

void takeEmitter(Emitter& emitter, const Fields& fields, const Project& project)
{
    if (!fields.text("name").empty()) {
        emitter.name = fields.text("name");
    }
    fields.takePlace(emitter.at);
    fields.takeNumber("heading_deg", emitter.heading_deg);
    fields.takeNumber("tilt_deg", emitter.tilt_deg);
    fields.takeNumber("level_db", emitter.level_db);
    fields.takeNumber("pitch_st", emitter.pitch_st);
    emitter.muted = fields.flag("muted").value_or(emitter.muted);
    if (fields.has("sound")) {
        emitter.sound = fields.reference("sound", project.sounds, "sound");
    }
    if (!fields.text("falloff").empty()) {
        emitter.falloff = fields.reference("falloff", project.falloffs, "falloff");
    }
    if (fields.has("family")) {
        emitter.family = fields.reference("family", project.families, "family");
    }
}

TakenIn withEmitters(const Project& project, const CsvTable& table)
{
    TakenIn taken{project};
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
        const Fields fields(table, i);
        if (!fields.text("planted_by").empty()) {
            ++taken.planted;
            continue;
        }
        const LevelId levelId = levelOf(project, fields);
        const EmitterId id{fields.text("id")};
        const Level& level = *taken.project.levels.find(levelId);
        if (const Emitter* known = level.emitters.find(id)) {
            const Emitter before = *known;
            taken.project =
                withEmitter(std::move(taken.project), levelId, id, [&](Emitter& e) { takeEmitter(e, fields, project); });
            taken.changed += *taken.project.levels.find(levelId)->emitters.find(id) == before ? 0 : 1;
            continue;
        }
        Emitter fresh;
        fresh.kind = kindOf(fields);
        takeEmitter(fresh, fields, project);
        fresh.name = fresh.name.empty() ? (id.empty() ? "Emitter" : id.text) : fresh.name;
        taken.project = withLevel(std::move(taken.project), levelId, [&](Level& l) {
            fresh.id = id.empty() ? l.emitters.freshId(fresh.name) : id;
            l.emitters.append(fresh);
        });
        ++taken.added;
    }
    return taken;
}

TakenIn withWalks(const Project& project, const CsvTable& table)
{
    // Points of a walk need not stand together; in time they do.
    std::map<std::pair<LevelId, WalkId>, std::vector<std::size_t>> rowsOf;
    std::vector<std::pair<LevelId, WalkId>> order;
    for (std::size_t i = 0; i < table.rows.size(); ++i) {
        const Fields fields(table, i);
        if (fields.text("id").empty()) {
            fields.fail("id is empty: it says which points belong to one walk");
        }
        const std::pair key(levelOf(project, fields), WalkId{fields.text("id")});
        auto& rows = rowsOf[key];
        if (rows.empty()) {
            order.push_back(key);
        }
        rows.push_back(i);
    }
    TakenIn taken{project};
    for (const auto& key : order) {
        const auto& [levelId, id] = key;
        const Walk* known = project.levels.find(levelId)->walks.find(id);
        Walk walk = known != nullptr ? *known : Walk{};
        walk.id = id;
        walk.points.clear();
        for (const std::size_t i : rowsOf[key]) {
            const Fields fields(table, i);
            walk.name = fields.text("name").empty() ? walk.name : fields.text("name");
            // What is in no column goes on with the point of the same number.
            const std::size_t number = walk.points.size();
            WalkPoint point = known != nullptr && number < known->points.size() ? known->points[number] : WalkPoint{};
            fields.takeNumber("t_s", point.t_s);
            fields.takePlace(point.at);
            if (fields.has("heading_deg")) {
                point.heading_deg = fields.number("heading_deg");
            }
            fields.takeNumber("pitch_deg", point.pitch_deg);
            if (!walk.points.empty() && point.t_s < walk.points.back().t_s) {
                fields.fail("t_s is " + fields.text("t_s") +
                            ", before the point above: the points of a walk are in order of time");
            }
            walk.points.push_back(point);
        }
        walk.name = walk.name.empty() ? id.text : walk.name;
        taken.added += known == nullptr ? 1 : 0;
        taken.changed += known != nullptr && !(*known == walk) ? 1 : 0;
        taken.project = withLevel(std::move(taken.project), levelId, [&](Level& level) { level.walks.put(walk); });
    }
    return taken;
}

} // namespace

TakenIn withTable(const Project& project, const CsvTable& table)
{
    if (table.column("east_m") == SIZE_MAX || table.column("id") == SIZE_MAX) {
        throw FileError(table.name + ".csv: emitters or walks are taken in, which have columns id and east_m; this has " +
                        (table.columns.empty() ? std::string("none") : "\"" + table.columns.front() + "\" and so on"));
    }
    const bool ofWalks = table.column("t_s") != SIZE_MAX;
    // A table of zones or rooms has places too.
    if (!ofWalks && table.column("volume_m3") != SIZE_MAX) {
        throw FileError(table.name + ".csv: zones and rooms are not taken in from a table, only emitters and walks");
    }
    TakenIn taken = ofWalks ? withWalks(project, table) : withEmitters(project, table);
    if (const auto wrong = violationIn(taken.project, project)) {
        throw FileError(table.name + ".csv: " + wrong->text());
    }
    return taken;
}

} // namespace stone
