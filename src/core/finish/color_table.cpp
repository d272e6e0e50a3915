#include "core/finish/color_table.h"
#include "core/base/text.h"
#include "core/io/file.h"
#include <algorithm>
#include <cmath>
#include <mutex>
#include <sstream>

namespace mirolux {

glm::dvec3 ColorTable::at(const glm::dvec3& coded) const {
    const glm::dvec3 place =
        glm::clamp((coded - low) / (high - low), glm::dvec3(0.0), glm::dvec3(1.0)) * double(size - 1);
    const glm::ivec3 i = glm::min(glm::ivec3(place), glm::ivec3(size - 2));
    const glm::dvec3 u = place - glm::dvec3(i);
    glm::dvec3 sum(0.0);
    for (int corner = 0; corner < 8; ++corner) {
        const glm::ivec3 c(corner & 1, corner >> 1 & 1, corner >> 2);
        const glm::ivec3 p = i + c;
        const glm::dvec3 w = glm::mix(1.0 - u, u, glm::dvec3(c));
        sum += w.x * w.y * w.z * glm::dvec3(entries[static_cast<std::size_t>((p.z * size + p.y) * size + p.x)]);
    }
    return sum;
}

Result<ColorTable> parse_color_table(const std::string& text, const std::string& name) {
    ColorTable out;
    std::istringstream lines(text);
    std::string line;
    int number = 0;
    const auto wrong = [&](const std::string& what, const std::string& remedy) {
        return fail(what, name + ", line " + std::to_string(number), remedy);
    };
    while (std::getline(lines, line)) {
        ++number;
        std::istringstream words(line);
        std::string first;
        if (!(words >> first) || first[0] == '#' || first == "TITLE") continue;
        if (first == "LUT_1D_SIZE") return wrong("holds a table of one dimension", "Use one with LUT_3D_SIZE.");
        if (first == "LUT_3D_SIZE") {
            if (!(words >> out.size) || out.size < 2 || out.size > 128 || !out.entries.empty())
                return wrong("LUT_3D_SIZE must be a whole number from 2 to 128, before the rows",
                             "Export the table anew.");
            continue;
        }
        if (first == "DOMAIN_MIN" || first == "DOMAIN_MAX") {
            glm::dvec3& bound = first == "DOMAIN_MIN" ? out.low : out.high;
            if (!(words >> bound.x >> bound.y >> bound.z))
                return wrong(first + " needs three numbers", "Mend the line.");
            continue;
        }
        glm::vec3 entry(0.0f);
        std::istringstream row(line);
        if (!(row >> entry.x >> entry.y >> entry.z))
            return wrong("is neither a keyword that is known nor three numbers", "Mend the line, or take it out.");
        if (out.size == 0) return wrong("has rows before LUT_3D_SIZE", "Export the table anew.");
        out.entries.push_back(entry);
        if (out.entries.size() > std::size_t(out.size) * std::size_t(out.size) * std::size_t(out.size))
            return wrong("has more rows than " + std::to_string(out.size) + " cubed", "Export the table anew.");
    }
    const std::size_t wanted = std::size_t(out.size) * std::size_t(out.size) * std::size_t(out.size);
    if (out.size == 0) return fail("holds no LUT_3D_SIZE", name, "Name a .cube file.");
    if (out.entries.size() < wanted)
        return fail("ends after " + std::to_string(out.entries.size()) + " of " + std::to_string(wanted) + " rows",
                    name, "Export the table anew.");
    if (glm::any(glm::lessThanEqual(out.high, out.low)))
        return fail("DOMAIN_MAX must lie over DOMAIN_MIN", name, "Mend the two lines.");
    Digest digest;
    digest.add(out.entries.data(), out.entries.size() * sizeof(glm::vec3));
    digest.add(&out.low, sizeof out.low);
    digest.add(&out.high, sizeof out.high);
    out.digest = digest.hex();
    return out;
}

Result<std::shared_ptr<const ColorTable>> color_table(const std::filesystem::path& file) {
    struct Kept {
        std::filesystem::path file;
        std::filesystem::file_time_type written;
        std::uintmax_t bytes = 0;
        Result<std::shared_ptr<const ColorTable>> table = nullptr;
    };
    static std::mutex mutex;
    static Kept kept;
    std::error_code none;
    const auto written = std::filesystem::last_write_time(file, none);
    const auto size = none ? 0 : std::filesystem::file_size(file, none);
    if (none) return fail("cannot be read: " + none.message(), file.string(), "Name a .cube file that is there.");
    const std::lock_guard lock(mutex);
    if (kept.file == file && kept.written == written && kept.bytes == size) return kept.table;
    const auto read = [&]() -> Result<std::shared_ptr<const ColorTable>> {
        auto bytes = read_file(file);
        if (!bytes) return tl::unexpected(bytes.error());
        auto table = parse_color_table(std::string(bytes->begin(), bytes->end()), file.string());
        if (!table) return tl::unexpected(table.error());
        return std::make_shared<const ColorTable>(std::move(*table));
    };
    kept = {file, written, size, read()};
    return kept.table;
}

} // namespace mirolux
