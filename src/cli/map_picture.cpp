// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/map_picture.h"

#include "analysis/contours.h"
#include "project/atomic_file.h"
#include "project/file_error.h"

#include <png.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <string>
#include <string_view>
#include <vector>

namespace stone::cli
{

namespace
{

struct Colour {
    double red, green, blue;
};
constexpr Colour paper{251, 248, 239};
constexpr Colour ink{38, 36, 32};
constexpr Colour soft{107, 102, 92};
constexpr Colour ochre{179, 118, 27};

Colour mixed(const Colour& a, const Colour& b, double share)
{
    return {a.red + (b.red - a.red) * share, a.green + (b.green - a.green) * share, a.blue + (b.blue - a.blue) * share};
}

/// Figures of five by seven dots: all that a map needs to say.
struct Glyph {
    char letter;
    std::array<const char*, 7> rows;
};
constexpr std::array<Glyph, 14> glyphs{{{'0', {" ### ", "#   #", "#  ##", "# # #", "##  #", "#   #", " ### "}},
                                        {'1', {"  #  ", " ##  ", "  #  ", "  #  ", "  #  ", "  #  ", " ### "}},
                                        {'2', {" ### ", "#   #", "    #", "   # ", "  #  ", " #   ", "#####"}},
                                        {'3', {" ### ", "#   #", "    #", "  ## ", "    #", "#   #", " ### "}},
                                        {'4', {"   # ", "  ## ", " # # ", "#  # ", "#####", "   # ", "   # "}},
                                        {'5', {"#####", "#    ", "#### ", "    #", "    #", "#   #", " ### "}},
                                        {'6', {" ### ", "#    ", "#    ", "#### ", "#   #", "#   #", " ### "}},
                                        {'7', {"#####", "    #", "   # ", "  #  ", "  #  ", "  #  ", "  #  "}},
                                        {'8', {" ### ", "#   #", "#   #", " ### ", "#   #", "#   #", " ### "}},
                                        {'9', {" ### ", "#   #", "#   #", " ####", "    #", "    #", " ### "}},
                                        {'-', {"     ", "     ", "     ", "#### ", "     ", "     ", "     "}},
                                        {'d', {"    #", "    #", " ####", "#   #", "#   #", "#   #", " ####"}},
                                        {'B', {"#### ", "#   #", "#   #", "#### ", "#   #", "#   #", "#### "}},
                                        {'m', {"     ", "     ", "## # ", "# # #", "# # #", "# # #", "# # #"}}}};
constexpr int glyphWidth = 6;
constexpr int glyphHeight = 7;

class Canvas
{
public:
    Canvas(int width, int height) : width_(width), height_(height), pixels_(static_cast<std::size_t>(width) * height * 3)
    {
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x) {
                put(x, y, paper, 1.0);
            }
        }
    }

    int width() const { return width_; }
    int height() const { return height_; }
    const std::vector<std::uint8_t>& pixels() const { return pixels_; }

    void put(int x, int y, const Colour& colour, double share)
    {
        if (x < 0 || y < 0 || x >= width_ || y >= height_ || share <= 0.0) {
            return;
        }
        std::uint8_t* pixel = &pixels_[(static_cast<std::size_t>(y) * width_ + x) * 3];
        const std::array<double, 3> parts{colour.red, colour.green, colour.blue};
        for (std::size_t i = 0; i < 3; ++i) {
            pixel[i] = static_cast<std::uint8_t>(std::lround(pixel[i] + (parts[i] - pixel[i]) * std::min(share, 1.0)));
        }
    }

    void fill(int left, int top, int width, int height, const Colour& colour)
    {
        for (int y = top; y < top + height; ++y) {
            for (int x = left; x < left + width; ++x) {
                put(x, y, colour, 1.0);
            }
        }
    }

    /// A straight line with soft edges.
    void line(const Vec2& a, const Vec2& b, double width, const Colour& colour)
    {
        const double reach = width / 2.0 + 1.0;
        const Vec2 way = b - a;
        const double length2 = std::max(glm::dot(way, way), 1e-12);
        for (int y = static_cast<int>(std::min(a.y, b.y) - reach); y <= static_cast<int>(std::max(a.y, b.y) + reach); ++y) {
            for (int x = static_cast<int>(std::min(a.x, b.x) - reach); x <= static_cast<int>(std::max(a.x, b.x) + reach); ++x) {
                const Vec2 p{x + 0.5, y + 0.5};
                const double along = std::clamp(glm::dot(p - a, way) / length2, 0.0, 1.0);
                const double off = glm::length(p - (a + way * along));
                put(x, y, colour, std::clamp(width / 2.0 + 0.5 - off, 0.0, 1.0));
            }
        }
    }

    /// `scale`: pixels for each dot of a figure. With a border in the paper's colour, so that it can be read over lines.
    void text(int left, int top, std::string_view words, int scale)
    {
        for (const bool halo : {true, false}) {
            int x = left;
            for (const char letter : words) {
                const auto glyph =
                    std::find_if(glyphs.begin(), glyphs.end(), [letter](const Glyph& g) { return g.letter == letter; });
                for (int row = 0; row < glyphHeight && glyph != glyphs.end(); ++row) {
                    for (int column = 0; column < glyphWidth - 1; ++column) {
                        if (glyph->rows[static_cast<std::size_t>(row)][column] == '#') {
                            const int wider = halo ? scale + 1 : 0;
                            fill(x + column * scale - wider, top + row * scale - wider, scale + 2 * wider, scale + 2 * wider,
                                 halo ? paper : ink);
                        }
                    }
                }
                x += glyphWidth * scale;
            }
        }
    }

private:
    int width_;
    int height_;
    std::vector<std::uint8_t> pixels_;
};

std::string said(double number)
{
    char text[32];
    std::snprintf(text, sizeof text, "%.0f", number);
    return std::string_view(text) == "-0" ? "0" : text;
}

/// How the grid lies on the picture: north is up.
struct Sheet {
    const MapGrid& grid;
    double scale; ///< pixels for each cell
    double margin;

    Vec2 place(const Vec2& p) const
    {
        const Vec2 cell = (p - grid.from) / grid.cell_m;
        return {margin + (cell.x + 0.5) * scale, margin + (grid.rows - 0.5 - cell.y) * scale};
    }
};

struct Box {
    double left, top, right, bottom;

    bool meets(const Box& other) const
    {
        return left < other.right && other.left < right && top < other.bottom && other.top < bottom;
    }
};

/// A figure in the middle of a line, where it is long enough and nothing is written yet.
void figure(Canvas& canvas, const Sheet& sheet, const Contour& contour, std::vector<Box>& written)
{
    constexpr int scale = 2;
    constexpr double least_px = 90.0;
    double length = 0.0;
    std::vector<double> upTo{0.0};
    for (std::size_t i = 1; i < contour.line.size(); ++i) {
        length += glm::length(sheet.place(contour.line[i]) - sheet.place(contour.line[i - 1]));
        upTo.push_back(length);
    }
    if (length < least_px) {
        return;
    }
    const std::string words = said(contour.level_db);
    const double wide = static_cast<double>(words.size()) * glyphWidth * scale;
    for (const double share : {0.5, 0.25, 0.75}) {
        const auto there = std::lower_bound(upTo.begin(), upTo.end(), share * length) - upTo.begin();
        const Vec2 at = sheet.place(contour.line[static_cast<std::size_t>(there)]);
        const Box box{at.x - wide / 2.0, at.y - glyphHeight, at.x + wide / 2.0, at.y + glyphHeight};
        if (std::none_of(written.begin(), written.end(), [&](const Box& other) { return other.meets(box); })) {
            written.push_back(box);
            canvas.text(static_cast<int>(box.left), static_cast<int>(box.top), words, scale);
            return;
        }
    }
}

void drawScale(Canvas& canvas, const Sheet& sheet, int left, int top)
{
    double metres = 1.0;
    for (const double longer : {2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0}) {
        metres = longer / sheet.grid.cell_m * sheet.scale <= 90.0 ? longer : metres;
    }
    const double wide = metres / sheet.grid.cell_m * sheet.scale;
    canvas.line({static_cast<double>(left), static_cast<double>(top)}, {left + wide, static_cast<double>(top)}, 3.0, ink);
    canvas.text(left, top + 8, said(metres) + "m", 2);
}

} // namespace

void writeMapPicture(const std::filesystem::path& file, const Level& level, const MapGrid& grid, std::span<const MapCell> cells,
                     const PlanCut& walls, double step_db)
{
    constexpr double wanted_px = 1'000.0;
    constexpr int margin = 16;
    constexpr int key_px = 130;
    const Sheet sheet{grid, std::max(wanted_px / std::max(grid.columns, grid.rows), 1.0), margin};
    const int width = static_cast<int>(std::ceil(grid.columns * sheet.scale));
    const int height = static_cast<int>(std::ceil(grid.rows * sheet.scale));
    const std::vector<double> values = levelsOf(cells);
    const std::vector<double> levels = contourLevels_db(values, step_db);
    const int bands = static_cast<int>(levels.size()) + 1;
    Canvas canvas(width + 2 * margin + key_px, std::max(height + 2 * margin, bands * 22 + 90));
    const auto tint = [&](double level_db) {
        const auto above = std::upper_bound(levels.begin(), levels.end(), level_db) - levels.begin();
        return mixed(paper, ochre, levels.empty() ? 0.0 : 0.75 * static_cast<double>(above) / static_cast<double>(bands - 1));
    };
    // Between the middles of cells as the lines lie, straight in dB.
    const double floor_db = (levels.empty() ? 0.0 : levels.front()) - step_db;
    const auto levelAt = [&](double column, double row) {
        const double c = std::clamp(column - 0.5, 0.0, grid.columns - 1.0);
        const double r = std::clamp(row - 0.5, 0.0, grid.rows - 1.0);
        const auto c0 = static_cast<std::uint32_t>(c);
        const auto r0 = static_cast<std::uint32_t>(r);
        const auto cell = [&](std::uint32_t atColumn, std::uint32_t atRow) {
            return std::max(
                cells[std::size_t{std::min(atRow, grid.rows - 1)} * grid.columns + std::min(atColumn, grid.columns - 1)]
                    .level_db,
                floor_db);
        };
        const double south = std::lerp(cell(c0, r0), cell(c0 + 1, r0), c - c0);
        const double north = std::lerp(cell(c0, r0 + 1), cell(c0 + 1, r0 + 1), c - c0);
        return std::lerp(south, north, r - r0);
    };
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            canvas.put(margin + x, margin + y, tint(levelAt((x + 0.5) / sheet.scale, grid.rows - (y + 0.5) / sheet.scale)),
                       1.0);
        }
    }
    for (const Outline& outline : walls.outlines) {
        const std::size_t n = outline.points.size();
        for (std::size_t i = 0; i + (outline.closed ? 0 : 1) < n; ++i) {
            canvas.line(sheet.place(outline.points[i]), sheet.place(outline.points[(i + 1) % n]), 2.4, soft);
        }
    }
    const std::vector<Contour> contours = contoursOf(grid, values, levels);
    for (const Contour& contour : contours) {
        // Every fifth is stronger, as on any sheet.
        const double strength = std::abs(std::remainder(contour.level_db, 5.0 * step_db)) < 1e-6 ? 2.0 : 1.1;
        for (std::size_t i = 1; i < contour.line.size(); ++i) {
            canvas.line(sheet.place(contour.line[i - 1]), sheet.place(contour.line[i]), strength, ink);
        }
        if (contour.closed) {
            canvas.line(sheet.place(contour.line.back()), sheet.place(contour.line.front()), strength, ink);
        }
    }
    for (const auto& emitter : level.emitters) {
        const Vec2 at = sheet.place({emitter->at.x, emitter->at.y});
        const bool placed = emitter->kind != EmitterKind::bed && !isOfCharacter(emitter->kind);
        constexpr double r = 4.0;
        const std::array<Vec2, 5> corners{
            {{at.x, at.y - r}, {at.x + r, at.y}, {at.x, at.y + r}, {at.x - r, at.y}, {at.x, at.y - r}}};
        for (std::size_t i = 1; i < corners.size() && placed; ++i) {
            canvas.line(corners[i - 1], corners[i], 1.6, ink);
        }
    }
    std::vector<Box> written;
    for (const Contour& contour : contours) {
        figure(canvas, sheet, contour, written);
    }
    const int left = width + 2 * margin;
    int top = margin;
    canvas.text(left, top, "dB", 2);
    for (std::size_t i = levels.size(); i-- > 0;) {
        top += 22;
        canvas.fill(left, top, 26, 18, tint(levels[i]));
        canvas.text(left + 34, top + 2, said(levels[i]), 2);
    }
    drawScale(canvas, sheet, left, top + 44);

    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = static_cast<png_uint_32>(canvas.width());
    image.height = static_cast<png_uint_32>(canvas.height());
    image.format = PNG_FORMAT_RGB;
    png_alloc_size_t bytes = 0;
    const auto write = [&](void* memory) {
        return png_image_write_to_memory(&image, memory, &bytes, 0, canvas.pixels().data(), 0, nullptr) != 0;
    };
    std::string packed;
    if (write(nullptr)) {
        packed.resize(bytes);
    }
    if (packed.empty() || !write(packed.data())) {
        throw FileError(file.string() + ": the picture cannot be made: " + image.message);
    }
    packed.resize(bytes);
    writeAtomically(file, packed);
}

} // namespace stone::cli
