#include "core/visibility/cells.h"
#include "core/base/text.h"
#include "core/visibility/baked_file.h"
#include <algorithm>

namespace mirolux {

CellPlace cell_place(const glm::vec3& point, float edge) {
    const glm::ivec3 p(glm::floor(point / edge));
    return {p.x, p.y, p.z};
}

static int find(const VisibleSets& sets, const CellPlace& place) {
    const auto it = std::lower_bound(sets.cells.begin(), sets.cells.end(), place);
    return it != sets.cells.end() && *it == place ? static_cast<int>(it - sets.cells.begin()) : -1;
}

int VisibleSets::cell_at(const glm::vec3& point) const {
    return find(*this, cell_place(point, edge));
}

std::vector<std::uint64_t> VisibleSets::seen_from(const glm::vec3& point, int growth) const {
    const CellPlace own = cell_place(point, edge);
    const int at = find(*this, own);
    if (at < 0) return {};
    std::vector<std::uint64_t> bits = seen[static_cast<std::size_t>(at)];
    for (int z = -growth; z <= growth; ++z)
        for (int y = -growth; y <= growth; ++y)
            for (int x = -growth; x <= growth; ++x)
                if (const int n = find(*this, {own.x + x, own.y + y, own.z + z}); n >= 0 && n != at)
                    for (std::size_t i = 0; i < bits.size(); ++i)
                        bits[i] |= seen[static_cast<std::size_t>(n)][i];
    return bits;
}

void VisibleSets::put(const CellPlace& place, std::vector<std::uint64_t> bits) {
    const auto it = std::lower_bound(cells.begin(), cells.end(), place);
    const auto at = it - cells.begin();
    if (it != cells.end() && *it == place)
        seen[static_cast<std::size_t>(at)] = std::move(bits);
    else {
        cells.insert(it, place);
        seen.insert(seen.begin() + at, std::move(bits));
    }
}

VisibleSets::Count VisibleSets::count() const {
    Count c;
    for (const auto& bits : seen) {
        std::size_t n = 0;
        for (const std::uint64_t word : bits)
            n += static_cast<std::size_t>(__builtin_popcountll(word));
        c.mean += static_cast<double>(n);
        c.most = std::max(c.most, n);
    }
    if (!seen.empty()) c.mean /= static_cast<double>(seen.size());
    return c;
}

std::string still_digest(const Scene& scene, const Setup& setup) {
    Digest d;
    const auto add = [&](const auto& value) { d.add(&value, sizeof value); };
    add(setup.number("visibility.occluder"));
    add(scene.asset->fileDigest);
    const Stillness stillness = stillness_of(scene, setup);
    const std::vector<Object>& objects = scene.objects();
    for (std::size_t i = 0; i < objects.size(); ++i) {
        const Object& o = objects[i];
        const auto drawn = static_cast<char>(!o.hidden && !o.proxy && o.casts != Casting::unseen);
        const auto still = static_cast<char>(stillness.still[i]);
        add(drawn);
        add(still);
        if (still == 0 || drawn == 0) continue;
        const Primitive& p = scene.asset->primitives[static_cast<std::size_t>(o.primitive)];
        add(o.transform);
        add(p.bounds.low); // of what is built, and of buffers beside the file, its digest tells nothing
        add(p.bounds.high);
        add(p.indices.size());
    }
    return d.hex();
}

std::string cells_digest(const Scene& scene, const Setup& setup) {
    Digest d;
    for (const char* key : {"visibility.cell", "visibility.patch", "visibility.confidence", "visibility.gap"}) {
        const double value = setup.number(key);
        d.add(&value, sizeof value);
    }
    const int aimed = setup.whole("visibility.aimed");
    d.add(&aimed, sizeof aimed);
    const std::string still = still_digest(scene, setup);
    d.add(still.data(), still.size());
    return d.hex();
}

std::filesystem::path cells_file(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("visibility-" + digest + ".cbor");
}

static constexpr int cells_version = 1;
static constexpr const char* cells_schema = "mirolux.visibility";

Result<void> write_cells(const VisibleSets& sets, const std::filesystem::path& file) {
    std::vector<std::int32_t> places;
    std::vector<std::uint8_t> bits;
    const std::size_t bytes = (sets.objects + 7) / 8;
    for (std::size_t c = 0; c < sets.cells.size(); ++c) {
        places.insert(places.end(), {sets.cells[c].x, sets.cells[c].y, sets.cells[c].z});
        for (std::size_t b = 0; b < bytes; ++b)
            bits.push_back(static_cast<std::uint8_t>(sets.seen[c][b / 8] >> (b % 8 * 8)));
    }
    return write_document({{"schema", cells_schema},
                           {"version", cells_version},
                           {"digest", sets.digest},
                           {"edge", sets.edge},
                           {"objects", sets.objects},
                           {"cells", places},
                           {"seen", nlohmann::json::binary(bits)},
                           {"seconds", sets.seconds},
                           {"rays", sets.rays}},
                          file);
}

Result<VisibleSets> read_cells(const std::filesystem::path& file) {
    const auto document = read_document(file, cells_schema, cells_version, "visible objects");
    if (!document) return tl::unexpected(document.error());
    const nlohmann::json& j = *document;
    const auto broken = [&](const std::string& what) {
        return fail("the file of visible objects is damaged: " + what, file.string(), "Compute the cells again.");
    };
    try {
        VisibleSets out;
        out.digest = j.at("digest").get<std::string>();
        out.edge = j.at("edge").get<float>();
        out.objects = j.at("objects").get<std::size_t>();
        out.seconds = j.at("seconds").get<double>();
        out.rays = j.at("rays").get<std::uint64_t>();
        const auto places = j.at("cells").get<std::vector<std::int32_t>>();
        const auto& bits = j.at("seen").get_binary();
        const std::size_t bytes = (out.objects + 7) / 8;
        if (!(out.edge > 0) || out.objects > (1u << 26) || places.size() % 3 != 0 ||
            bits.size() != places.size() / 3 * bytes)
            return broken("its sizes do not agree");
        for (std::size_t c = 0; c < places.size() / 3; ++c) {
            out.cells.push_back({places[3 * c], places[3 * c + 1], places[3 * c + 2]});
            if (c > 0 && !(out.cells[c - 1] < out.cells[c])) return broken("its cells are out of order");
            std::vector<std::uint64_t> of((out.objects + 63) / 64, 0);
            for (std::size_t b = 0; b < bytes; ++b)
                of[b / 8] |= std::uint64_t(bits[c * bytes + b]) << (b % 8 * 8);
            out.seen.push_back(std::move(of));
        }
        return out;
    } catch (const nlohmann::json::exception&) {
        return broken("a field is missing or of the wrong kind");
    }
}

std::shared_ptr<const VisibleSets> cells_of(const Scene& scene, const Setup& setup, std::string* remark) {
    if (scene.bakes.empty()) {
        if (remark) *remark = "Cells are kept beside a project: save it, then compute them.";
        return nullptr;
    }
    auto sets = kept_file<VisibleSets>(cells_file(scene.bakes, cells_digest(scene, setup)), read_cells,
                                       "No cells were computed for what stands still now and for these settings: all "
                                       "that the frustum touches is drawn.",
                                       remark);
    if (!sets || sets->objects <= scene.objects().size()) return sets;
    if (remark) *remark = "The file of visible objects is of another scene: all that the frustum touches is drawn.";
    return nullptr;
}

} // namespace mirolux
