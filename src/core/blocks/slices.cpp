#include "core/blocks/colors.h"
#include "core/blocks/make_blocks.h"
#include "core/image/image_io.h"
#include <algorithm>
#include <fmt/format.h>

namespace mirolux::blocks {

namespace {

/// Names as people count them: numbers within them by their value.
bool comes_before(const std::string& a, const std::string& b) {
    const auto digit = [](char c) { return c >= '0' && c <= '9'; };
    std::size_t i = 0, j = 0;
    while (i < a.size() && j < b.size()) {
        if (digit(a[i]) && digit(b[j])) {
            std::size_t m = i, n = j;
            while (m < a.size() && a[m] == '0')
                ++m;
            while (n < b.size() && b[n] == '0')
                ++n;
            std::size_t p = m, q = n;
            while (p < a.size() && digit(a[p]))
                ++p;
            while (q < b.size() && digit(b[q]))
                ++q;
            if (p - m != q - n) return p - m < q - n;
            if (const int order = a.compare(m, p - m, b, n, q - n); order != 0) return order < 0;
            i = p;
            j = q;
            continue;
        }
        if (a[i] != b[j]) return a[i] < b[j];
        ++i;
        ++j;
    }
    return a.size() - i < b.size() - j || (a.size() - i == b.size() - j && a < b);
}

} // namespace

Result<Contents> blocks_of_slices(const std::vector<ByteImage>& slices, float edge) {
    if (slices.empty()) return fail("there are no slices", "", "Name a folder with PNG pictures, one a layer.");
    const glm::ivec3 size(slices.front().width, static_cast<int>(slices.size()), slices.front().height);
    if (std::max({size.x, size.y, size.z}) > largest_edge)
        return fail(fmt::format("{} x {} x {} cells: an edge is over {}", size.x, size.y, size.z, largest_edge), "",
                    "Make the slices smaller, or take fewer.");
    std::vector<ColorSample> samples;
    std::vector<float> alphas;
    std::vector<glm::ivec3> cells;
    for (int y = 0; y < size.y; ++y) {
        const ByteImage& s = slices[static_cast<std::size_t>(y)];
        if (s.width != size.x || s.height != size.z)
            return fail(fmt::format("slice {} is of {} x {} pixels, the first of {} x {}", y + 1, s.width, s.height,
                                    size.x, size.z),
                        "", "Make all slices of one size.");
        for (int z = 0; z < size.z; ++z)
            for (int x = 0; x < size.x; ++x) {
                const std::uint8_t* p = &s.rgba[4 * (std::size_t(z) * std::size_t(size.x) + std::size_t(x))];
                if (p[3] == 0) continue;
                samples.push_back(
                    {glm::vec3(srgb_decode(p[0] / 255.0), srgb_decode(p[1] / 255.0), srgb_decode(p[2] / 255.0)),
                     p[3] == 255 ? 0 : 1 + p[3] / 64});
                alphas.push_back(float(p[3]) / 255);
                cells.emplace_back(x, y, z);
            }
    }
    Contents out;
    out.name = "slices";
    out.world.edge = edge;
    out.world.still = Volume(size);
    const std::vector<int> group = alike_colors(samples, 255);
    const int groups = group.empty() ? 0 : *std::max_element(group.begin(), group.end()) + 1;
    std::vector<glm::dvec4> sums(static_cast<std::size_t>(groups));
    std::vector<double> counts(sums.size());
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const auto g = static_cast<std::size_t>(group[i]);
        sums[g] += glm::dvec4(glm::dvec3(samples[i].color), alphas[i]);
        counts[g] += 1;
        out.world.still.set(cells[i], static_cast<std::uint8_t>(g + 1));
    }
    for (std::size_t g = 0; g < sums.size(); ++g) {
        const glm::dvec4 mean = sums[g] / counts[g];
        Material m{.name = fmt::format("color {}", g + 1), .color = glm::vec3(mean)};
        if (mean.w < 1 - 1e-6) {
            m.opacity = static_cast<float>(mean.w);
            m.loss = static_cast<int>(std::lround(4 * mean.w));
        }
        out.world.palette.push_back(m);
    }
    const float reach = edge * float(std::max({size.x, size.y, size.z}));
    const glm::vec3 middle = 0.5f * edge * glm::vec3(size);
    out.cameras.push_back({.name = "from above", .eye = middle + reach * glm::vec3(0.5f, 0.7f, 0.9f), .aim = middle});
    return out;
}

Result<Contents> read_slices(const std::filesystem::path& folder, float edge) {
    std::vector<std::filesystem::path> files;
    std::error_code trouble;
    for (const auto& entry : std::filesystem::directory_iterator(folder, trouble))
        if (entry.path().extension() == ".png") files.push_back(entry.path());
    if (trouble)
        return fail("the folder of slices cannot be read: " + trouble.message(), folder.string(), "Check its name.");
    if (files.empty())
        return fail("the folder holds no PNG pictures", folder.string(), "Name a folder with one picture a layer.");
    if (files.size() > std::size_t(largest_edge))
        return fail(fmt::format("{} slices are more than {}", files.size(), largest_edge), folder.string(),
                    "Take fewer.");
    std::sort(files.begin(), files.end(),
              [](const auto& a, const auto& b) { return comes_before(a.filename().string(), b.filename().string()); });
    std::vector<ByteImage> slices;
    for (const std::filesystem::path& f : files) {
        auto read = read_png(f);
        if (!read) return tl::unexpected(read.error());
        if (!slices.empty() && (read->width != slices.front().width || read->height != slices.front().height))
            return fail(fmt::format("is of {} x {} pixels, the first slice of {} x {}", read->width, read->height,
                                    slices.front().width, slices.front().height),
                        f.string(), "Make all slices of one size.");
        slices.push_back(std::move(*read));
    }
    auto made = blocks_of_slices(slices, edge);
    if (!made && made.error().where.empty()) made.error().where = folder.string();
    if (made) made->name = folder.filename().string();
    return made;
}

} // namespace mirolux::blocks
