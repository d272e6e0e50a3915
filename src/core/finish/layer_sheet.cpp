#include "core/finish/layer_sheet.h"
#include "core/finish/exposure.h"
#include "core/finish/histogram.h"
#include "core/finish/render_scale.h"
#include "core/image/image_io.h"
#include "core/image/lettering.h"
#include "core/light/luminance.h"
#include "core/plan/frame_plan.h"
#include <algorithm>
#include <cmath>

namespace mirolux {

namespace {

constexpr const char* rest_name = "rest";
constexpr double rest_seen = 0.005; // less of the light is rounding: a G-buffer holds fewer bits than layers do

ByteImage in_grey(ByteImage picture) {
    for (std::size_t i = 0; i + 3 < picture.rgba.size(); i += 4) {
        const double linear = luminance({srgb_decode(picture.rgba[i] / 255.0), srgb_decode(picture.rgba[i + 1] / 255.0),
                                         srgb_decode(picture.rgba[i + 2] / 255.0)});
        const auto code = static_cast<std::uint8_t>(std::lround(255 * srgb_encode(linear)));
        picture.rgba[i] = picture.rgba[i + 1] = picture.rgba[i + 2] = code;
    }
    return picture;
}

SheetCell cell_of(const LayerInfo& layer, ByteImage picture) {
    return {layer.name, layer.label, role_of(layer), std::move(picture)};
}

} // namespace

std::string role_of(const LayerInfo& layer) {
    if (layer.addsUp) return "adds";
    if (!layer.role.empty()) return layer.role;
    return "shown";
}

std::vector<const LayerInfo*> sheet_layers(const Setup& setup) {
    std::vector<const LayerInfo*> parts, others, last;
    for (const LayerInfo& l : all_layers()) {
        if (!shows(l, setup, false)) continue;
        if (l.addsUp)
            parts.push_back(&l);
        else if (l.name == "final")
            last.push_back(&l);
        else if (!l.role.empty())
            others.push_back(&l);
    }
    parts.insert(parts.end(), others.begin(), others.end());
    parts.insert(parts.end(), last.begin(), last.end());
    return parts;
}

Result<LayerSheet> layer_sheet(RenderSession& session, const Scene& scene, const Setup& asked, const View& view,
                               int cellWidth, int cellHeight, bool grey) {
    if (scene.is_flat())
        return fail("a flat stage's layers do not add up", "sheet", "render --layers writes each of them.");
    const Setup setup = plainly_rendered(asked);
    const std::vector<const LayerInfo*> layers = sheet_layers(setup);
    RenderOptions o;
    o.fencedSamples = 0;
    o.picture = false;
    o.thumbnailWidth = cellWidth;
    o.thumbnailHeight = cellHeight;
    for (const LayerInfo* l : layers) {
        o.floatLayers.push_back(l->name);
        o.thumbnails.push_back(l->name);
    }
    auto record = session.render(scene, setup, view, o);
    if (!record) return tl::unexpected(record.error());
    const Setup shown = exposed_as(setup, record->told);
    const auto colored = [&](ByteImage picture) { return grey ? in_grey(std::move(picture)) : picture; };
    const auto displayed = [&](const FloatImage& radiance) {
        return colored(displayed_picture(resized(radiance, cellWidth, cellHeight, true), shown));
    };
    LayerSheet out;
    FloatImage sum;
    const auto add = [&](SheetCell cell, const FloatImage& image) {
        if (sum.data.empty())
            sum = image;
        else
            for (std::size_t i = 0; i < sum.data.size(); ++i)
                sum.data[i] += image.data[i];
        out.sums.push_back({cell.name, "sum with " + cell.label, "sum so far", displayed(sum)});
        out.parts.push_back(std::move(cell));
    };
    for (const LayerInfo* l : layers) {
        FloatImage& values = record->floats.at(l->name);
        SheetCell cell = cell_of(*l, colored(std::move(record->thumbnails.at(l->name))));
        if (l->addsUp)
            add(std::move(cell), values);
        else
            out.others.push_back(std::move(cell));
        if (l->name == "final") {
            FloatImage rest = values;
            double all = 0, apart = 0;
            for (std::size_t i = 0; i < rest.data.size(); ++i) {
                const float whole = rest.data[i];
                rest.data[i] -= sum.data[i];
                if (i % 4 != 3) {
                    all += std::abs(whole);
                    apart += std::abs(rest.data[i]);
                    out.worst = std::max(out.worst, double(std::abs(rest.data[i])) / std::max(0.05f, std::abs(whole)));
                } else
                    rest.data[i] = 1;
            }
            out.rest = apart / std::max(all, 1e-12);
            if (out.rest > rest_seen) {
                add({rest_name, "Rest", "adds: beams, shafts, light spread beneath surfaces", displayed(rest)}, rest);
                out.values.emplace_back(rest_name, std::move(rest));
            }
        }
        out.values.emplace_back(l->name, std::move(values));
    }
    return out;
}

ByteImage sheet_picture(const LayerSheet& sheet, int columns) {
    constexpr int margin = 10, caption = 34;
    const std::uint8_t ground = 38;
    if (sheet.others.empty()) return {};
    const int width = sheet.others.front().picture.width, height = sheet.others.front().picture.height,
              step = width + margin, row = height + caption + margin;
    columns = std::max(1, columns);
    // Rows: parts over their sums, as many columns at a time; then the others.
    struct Placed {
        const SheetCell* cell;
        int column, row;
    };
    std::vector<Placed> placed;
    int rows = 0;
    for (std::size_t from = 0; from < sheet.parts.size(); from += static_cast<std::size_t>(columns), rows += 2)
        for (std::size_t i = from; i < std::min(sheet.parts.size(), from + static_cast<std::size_t>(columns)); ++i) {
            placed.push_back({&sheet.parts[i], static_cast<int>(i - from), rows});
            placed.push_back({&sheet.sums[i], static_cast<int>(i - from), rows + 1});
        }
    for (std::size_t i = 0; i < sheet.others.size(); ++i)
        placed.push_back({&sheet.others[i], static_cast<int>(i) % columns, rows + static_cast<int>(i) / columns});
    rows += (static_cast<int>(sheet.others.size()) + columns - 1) / columns;
    ByteImage out{margin + columns * step, margin + rows * row, {}};
    out.rgba.assign(std::size_t(4) * std::size_t(out.width) * std::size_t(out.height), ground);
    for (std::size_t i = 3; i < out.rgba.size(); i += 4)
        out.rgba[i] = 255;
    for (const Placed& p : placed) {
        const int left = margin + p.column * step, top = margin + p.row * row + caption;
        letter(out, left, top - caption + 4, p.cell->label, {235, 235, 230}, width);
        letter(out, left, top - caption + 18, p.cell->role, {160, 160, 156}, width);
        for (int y = 0; y < height; ++y)
            std::copy_n(p.cell->picture.rgba.begin() + std::ptrdiff_t(4) * y * width,
                        std::size_t(4) * std::size_t(width),
                        out.rgba.begin() + std::ptrdiff_t(4) * (std::ptrdiff_t(top + y) * out.width + left));
    }
    return out;
}

Result<void> write_sheet(const std::filesystem::path& path, const LayerSheet& sheet) {
    return write_exr_parts(path, sheet.values);
}

} // namespace mirolux
