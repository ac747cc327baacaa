// SPDX-License-Identifier: MPL-2.0
#include "level/finds.h"

#include "level/floor_edges.h"

#include <bit>
#include <cmath>
#include <cstring>
#include <string_view>
#include <type_traits>

namespace stone
{

namespace
{

static_assert(std::endian::native == std::endian::little, "bytes are written as they lie in memory");

constexpr std::string_view head = "Stone Echo finds 1\n";

class Bytes
{
public:
    template <class Number> void add(Number number)
    {
        static_assert(std::is_arithmetic_v<Number>);
        const auto at = all.size();
        all.resize(at + sizeof number);
        std::memcpy(all.data() + at, &number, sizeof number);
    }
    void add(const std::string& text)
    {
        add(static_cast<std::uint32_t>(text.size()));
        all += text;
    }
    void add(const Vec3& place)
    {
        add(place.x);
        add(place.y);
        add(place.z);
    }
    void add(const std::vector<Vec3>& places)
    {
        add(static_cast<std::uint32_t>(places.size()));
        for (const Vec3& place : places) {
            add(place);
        }
    }

    std::string all{head};
};

/// Takes them up again. Once anything is not there, or not what it should be, nothing is.
class Reader
{
public:
    /// `low`, `high`: between which all places lie.
    Reader(std::string_view bytes, const Vec3& low, const Vec3& high) : left_(bytes), low_(low), high_(high)
    {
        good_ = left_.starts_with(head);
        left_.remove_prefix(good_ ? head.size() : left_.size());
    }

    bool good() const { return good_; }
    bool atEnd() const { return left_.empty(); }
    void refuse() { good_ = false; }

    template <class Number> Number number()
    {
        Number number{};
        if (!has(sizeof number)) {
            return number;
        }
        std::memcpy(&number, left_.data(), sizeof number);
        left_.remove_prefix(sizeof number);
        return number;
    }
    /// How many things follow, each of which takes at least so many bytes.
    std::uint32_t count(std::size_t leastBytes)
    {
        const auto claimed = number<std::uint32_t>();
        return has(claimed * leastBytes) ? claimed : 0;
    }
    std::string text()
    {
        const std::uint32_t size = count(1);
        std::string words(left_.substr(0, size));
        left_.remove_prefix(size);
        return words;
    }
    Vec3 place()
    {
        Vec3 at{0.0};
        for (int axis = 0; axis < 3; ++axis) {
            at[axis] = number<double>();
            good_ = good_ && at[axis] >= low_[axis] && at[axis] <= high_[axis]; // so that it is a number, too
        }
        return at;
    }
    std::vector<Vec3> places()
    {
        std::vector<Vec3> all(count(3 * sizeof(double)));
        for (Vec3& one : all) {
            one = place();
        }
        return all;
    }

private:
    bool has(std::size_t bytes)
    {
        good_ = good_ && left_.size() >= bytes;
        return good_;
    }

    std::string_view left_;
    Vec3 low_;
    Vec3 high_;
    bool good_ = true;
};

void add(Bytes& bytes, const FoundEdges& found)
{
    bytes.add(static_cast<std::uint8_t>(found.edges ? 1 : 0));
    if (!found.edges) {
        return;
    }
    bytes.add(found.rules.step_m);
    bytes.add(found.rules.kerb_m);
    bytes.add(found.rules.stride_m);
    bytes.add(static_cast<std::uint32_t>(found.rules.water.size()));
    for (const std::string& word : found.rules.water) {
        bytes.add(word);
    }
    bytes.add(found.stands);
    bytes.add(static_cast<std::uint32_t>(found.edges->all().size()));
    for (const FloorEdge& edge : found.edges->all()) {
        bytes.add(static_cast<std::uint8_t>(edge.kind));
        bytes.add(static_cast<std::uint8_t>(edge.closed ? 1 : 0));
        bytes.add(edge.by_m);
        bytes.add(edge.material);
        bytes.add(edge.points);
    }
}

FoundEdges edgesFrom(Reader& reader, std::size_t materials)
{
    FoundEdges found;
    if (reader.number<std::uint8_t>() == 0) {
        return found;
    }
    found.rules.step_m = reader.number<double>();
    found.rules.kerb_m = reader.number<double>();
    found.rules.stride_m = reader.number<double>();
    found.rules.water.clear();
    for (std::uint32_t words = reader.count(sizeof(std::uint32_t)); words > 0 && reader.good(); --words) {
        found.rules.water.push_back(reader.text());
    }
    found.stands = reader.place();
    std::vector<FloorEdge> edges;
    constexpr std::size_t leastEdge = 2 + sizeof(double) + 2 * sizeof(std::uint32_t);
    for (std::uint32_t left = reader.count(leastEdge); left > 0 && reader.good(); --left) {
        const auto kind = reader.number<std::uint8_t>();
        FloorEdge edge;
        edge.kind = static_cast<EdgeKind>(kind);
        edge.closed = reader.number<std::uint8_t>() != 0;
        edge.by_m = reader.number<double>();
        edge.material = reader.number<std::uint32_t>();
        edge.points = reader.places();
        if (kind >= edgeKindCount || std::isnan(edge.by_m) || edge.material >= std::max<std::size_t>(materials, 1) ||
            edge.points.size() < 2) {
            reader.refuse();
        }
        edges.push_back(std::move(edge));
    }
    if (reader.good()) {
        found.edges = std::make_shared<const FloorEdges>(std::move(edges));
    }
    return found;
}

} // namespace

std::string findsOf(const Ground& ground)
{
    Bytes bytes;
    bytes.add(static_cast<std::uint64_t>(ground.mesh().triangles.size()));
    add(bytes, ground.foundEdges());
    const auto ways = ground.foundWays();
    bytes.add(static_cast<std::uint32_t>(ways.size()));
    for (const auto& [ends, way] : ways) {
        for (const double end : ends) {
            bytes.add(end);
        }
        bytes.add(way);
    }
    return std::move(bytes.all);
}

bool giveFinds(const Ground& ground, const std::string& bytes)
{
    constexpr double about_m = 100.0; // who walks there may come from outside
    const auto [low, high] = ground.mesh().bounds();
    Reader reader(bytes, low - about_m, high + about_m);
    if (reader.number<std::uint64_t>() != ground.mesh().triangles.size()) {
        return false;
    }
    FoundEdges edges = edgesFrom(reader, ground.mesh().materials.size());
    struct Found {
        Vec3 from;
        Vec3 to;
        Ground::Way way;
    };
    std::vector<Found> ways;
    constexpr std::size_t leastWay = 6 * sizeof(double) + sizeof(std::uint32_t);
    for (std::uint32_t left = reader.count(leastWay); left > 0 && reader.good(); --left) {
        const Vec3 from = reader.place();
        const Vec3 to = reader.place();
        ways.push_back({from, to, reader.places()});
    }
    if (!reader.good() || !reader.atEnd()) {
        return false;
    }
    if (edges.edges) {
        ground.give(std::move(edges));
    }
    for (Found& found : ways) {
        ground.give(found.from, found.to, std::move(found.way));
    }
    return true;
}

} // namespace stone
