#include "core/blocks/block_file.h"
#include "core/base/text.h"
#include "core/io/file.h"
#include "core/io/wire.h"
#include <cstring>
#include <zlib.h>

namespace mirolux::blocks {

namespace {

constexpr char mark[] = "MRXBLK1\n";
constexpr std::size_t mark_bytes = 8, head_bytes = mark_bytes + 4;
constexpr std::size_t most_header = std::size_t(64) << 20; // bytes
constexpr std::size_t most_runs = 3 * chunk_cells;         // bytes: runs of one cell each

std::vector<std::uint8_t> deflated(const std::vector<std::uint8_t>& bytes) {
    uLongf size = compressBound(static_cast<uLong>(bytes.size()));
    std::vector<std::uint8_t> out(size);
    if (compress2(out.data(), &size, bytes.data(), static_cast<uLong>(bytes.size()), 6) != Z_OK) return {};
    out.resize(size);
    return out;
}

/// Runs of equal cells: how many (two bytes, the low one first, less one), and of what.
std::vector<std::uint8_t> runs_of(const Volume::Cells& cells) {
    std::vector<std::uint8_t> out;
    for (std::size_t i = 0; i < cells.size();) {
        std::size_t n = 1;
        while (i + n < cells.size() && cells[i + n] == cells[i])
            ++n;
        out.insert(out.end(),
                   {static_cast<std::uint8_t>((n - 1) & 255), static_cast<std::uint8_t>((n - 1) >> 8), cells[i]});
        i += n;
    }
    return out;
}

Json chunks_json(const Volume& v, std::vector<std::uint8_t>& data) {
    Json list = Json::array();
    for (std::size_t i = 0; i < v.chunk_count(); ++i) {
        if (const auto all = v.even(i)) {
            list.push_back(*all);
            continue;
        }
        const Volume::Cells* own = v.cells_of(i);
        const std::vector<std::uint8_t> runs = runs_of(*own);
        const bool shorter = runs.size() < chunk_cells;
        const std::vector<std::uint8_t> bytes =
            deflated(shorter ? runs : std::vector<std::uint8_t>(own->begin(), own->end()));
        list.push_back({{"at", data.size()}, {"bytes", bytes.size()}, {"form", shorter ? "runs" : "cells"}});
        data.insert(data.end(), bytes.begin(), bytes.end());
    }
    return list;
}

Json size_json(const glm::ivec3& v) {
    return Json::array({v.x, v.y, v.z});
}

class Reader {
public:
    Reader(std::span<const std::uint8_t> bytes, std::size_t limit) : bytes_(bytes), limit_(limit) {}

    Contents read() {
        const std::size_t header = header_bytes();
        const Json json =
            Json::parse(bytes_.begin() + head_bytes, bytes_.begin() + static_cast<std::ptrdiff_t>(head_bytes + header));
        const JsonCursor root(json);
        data_ = bytes_.subspan(head_bytes + header);
        if (root["stage"].text() != "blocks")
            root["stage"].complain("is \"" + root["stage"].text() + "\"; this reader knows \"blocks\"");
        if (root["version"].whole(1000) > 1) root["version"].complain("is newer than this program", "Update Mirolux.");
        Contents s;
        s.name = root.text("name", "");
        s.world.edge = static_cast<float>(root.number("edge", s.world.edge, 0.001, 1000));
        read_palette(root["palette"], s.world);
        s.world.still = volume(root, s.world);
        const JsonCursor props = root.list("props");
        if (props.size() > most_props) props.complain("has more than 256 props");
        for (std::size_t i = 0; i < props.size(); ++i) {
            const JsonCursor j = props.at(i);
            Prop p;
            p.name = j["name"].text();
            p.place = j["place"].vector<3>();
            p.pivot = j.vector<3>("pivot", glm::vec3(0.0f));
            p.turn = static_cast<float>(j.number("turn", 0, -1e6, 1e6));
            p.rate = static_cast<float>(j.number("rate", 0, -1e3, 1e3));
            p.cells = volume(j, s.world);
            s.world.props.push_back(std::move(p));
        }
        const JsonCursor lights = root.list("lights"), cameras = root.list("cameras");
        for (std::size_t i = 0; i < lights.size(); ++i)
            s.lights.push_back(light_from_json(lights.at(i)));
        for (std::size_t i = 0; i < cameras.size(); ++i)
            s.cameras.push_back(camera_from_json(cameras.at(i)));
        return s;
    }

private:
    static constexpr std::size_t most_props = 256;

    std::size_t header_bytes() const {
        const auto at = [&](std::size_t i) { return static_cast<std::size_t>(bytes_[mark_bytes + i]); };
        if (bytes_.size() < head_bytes || std::memcmp(bytes_.data(), mark, mark_bytes) != 0)
            throw ReadFailure{"is no file of blocks, or of another version", "at byte 0", ""};
        const std::size_t n = at(0) | at(1) << 8 | at(2) << 16 | at(3) << 24;
        if (n > most_header || n > bytes_.size() - head_bytes)
            throw ReadFailure{
                fmt::format("says that its header has {} bytes; {} follow", n, bytes_.size() - head_bytes), "at byte 8",
                "The file is cut off or damaged: copy it again."};
        return n;
    }

    static void read_palette(const JsonCursor& list, World& world) {
        if (!list.json().is_array()) list.complain("must be an array");
        if (list.size() > 255) list.complain("has more than 255 materials");
        for (std::size_t i = 0; i < list.size(); ++i) {
            const JsonCursor j = list.at(i);
            Material m;
            m.name = j["name"].text();
            m.color = j["color"].vector<3>();
            for (int c = 0; c < 3; ++c)
                if (m.color[c] < 0 || m.color[c] > 1) j["color"].complain("must lie between 0 and 1");
            m.roughness = static_cast<float>(j.number("roughness", m.roughness, 0, 1));
            m.metallic = static_cast<float>(j.number("metallic", m.metallic, 0, 1));
            m.glow = static_cast<float>(j.number("glow", 0, 0, 1e6));
            m.opacity = static_cast<float>(j.number("opacity", 1, 0, 1));
            m.loss = static_cast<int>(j.whole("loss", 0, most_light));
            if (j.has("light")) {
                const JsonCursor light = j["light"];
                if (light.size() != 3) light.complain("must be three levels");
                for (std::size_t c = 0; c < 3; ++c)
                    m.light[static_cast<int>(c)] = static_cast<int>(light.at(c).whole(most_light));
            }
            world.palette.push_back(std::move(m));
        }
    }

    Volume volume(const JsonCursor& j, const World& world) {
        const JsonCursor size = j["size"];
        if (size.size() != 3) size.complain("must be three numbers of cells");
        glm::ivec3 cells;
        for (std::size_t a = 0; a < 3; ++a) {
            cells[static_cast<int>(a)] = static_cast<int>(size.at(a).whole(largest_edge));
            if (cells[static_cast<int>(a)] < 1) size.at(a).complain("must be 1 or more");
        }
        const glm::ivec3 chunks = (cells + (chunk_edge - 1)) / chunk_edge;
        const JsonCursor list = j["chunks"];
        const auto count = static_cast<std::size_t>(chunks.x) * static_cast<std::size_t>(chunks.y) *
                           static_cast<std::size_t>(chunks.z);
        if (list.size() != count)
            list.complain(
                fmt::format("has {} chunks; {}x{}x{} cells have {}", list.size(), cells.x, cells.y, cells.z, count));
        Volume v(cells);
        for (std::size_t i = 0; i < count; ++i) {
            const JsonCursor c = list.at(i);
            if (c.json().is_number()) {
                const auto all = c.whole(255);
                if (all >= world.palette.size())
                    c.complain(fmt::format("is of material {}; there are {}", all, world.palette.size() - 1));
                v.put(i, static_cast<std::uint8_t>(all));
                continue;
            }
            spent_ += chunk_cells;
            if (spent_ > limit_)
                list.complain(fmt::format("takes more than {} MiB", limit_ >> 20), "Cut the world into smaller ones.");
            v.put(i, cells_of(c, world));
        }
        return v;
    }

    Volume::Cells cells_of(const JsonCursor& c, const World& world) {
        const std::uint64_t at = c["at"].whole(data_.size());
        const std::uint64_t bytes = c["bytes"].whole(0xFFFFFFFF);
        if (bytes > data_.size() - at)
            c["bytes"].complain(fmt::format("{} bytes from {} on reach beyond the file's end", bytes, at),
                                "The file is cut off or damaged: copy it again.");
        const std::string form = c["form"].text();
        if (form != "runs" && form != "cells") c["form"].complain("is \"" + form + "\", not runs or cells");
        std::vector<std::uint8_t> plain(form == "cells" ? chunk_cells : most_runs);
        auto size = static_cast<uLongf>(plain.size());
        const int state = uncompress(plain.data(), &size, data_.data() + at, static_cast<uLong>(bytes));
        if (state != Z_OK || (form == "cells" && size != chunk_cells))
            c.complain(fmt::format("its data at byte {} do not unpack to the cells of a chunk", place_of(at)),
                       "The file is damaged: copy it again.");
        Volume::Cells out;
        if (form == "cells")
            std::copy(plain.begin(), plain.begin() + chunk_cells, out.begin());
        else {
            std::size_t done = 0;
            for (std::size_t i = 0; i + 2 < size; i += 3) {
                const std::size_t n = std::size_t(plain[i]) + (std::size_t(plain[i + 1]) << 8) + 1;
                if (n > chunk_cells - done) c.complain("its runs are longer than a chunk");
                std::fill_n(out.begin() + static_cast<std::ptrdiff_t>(done), n, plain[i + 2]);
                done += n;
            }
            if (done != chunk_cells || size % 3 != 0)
                c.complain(fmt::format("its runs have {} of a chunk's {} cells", done, chunk_cells));
        }
        for (std::size_t i = 0; i < chunk_cells; ++i)
            if (out[i] >= world.palette.size())
                c.complain(fmt::format("cell {},{},{} of the chunk is of material {}; there are {}", i & 31, i >> 10,
                                       i >> 5 & 31, out[i], world.palette.size() - 1));
        return out;
    }

    std::size_t place_of(std::uint64_t at) const { return bytes_.size() - data_.size() + at; }

    std::span<const std::uint8_t> bytes_, data_;
    std::size_t limit_, spent_ = 0;
};

} // namespace

std::vector<std::uint8_t> packed(const Contents& s) {
    std::vector<std::uint8_t> data;
    Json palette = Json::array(), props = Json::array(), lights = Json::array(), cameras = Json::array();
    for (std::size_t i = 1; i < s.world.palette.size(); ++i) {
        const Material& m = s.world.palette[i];
        Json j = {{"name", m.name}, {"color", to_array(m.color)}};
        const Material usual;
        if (m.roughness != usual.roughness) j["roughness"] = m.roughness;
        if (m.metallic != 0) j["metallic"] = m.metallic;
        if (m.glow != 0) j["glow"] = m.glow;
        if (m.shines()) j["light"] = size_json(m.light);
        if (m.opacity != 1) j["opacity"] = m.opacity;
        if (m.loss != 0) j["loss"] = m.loss;
        palette.push_back(std::move(j));
    }
    Json chunks = chunks_json(s.world.still, data);
    for (const Prop& p : s.world.props)
        props.push_back({{"name", p.name},
                         {"size", size_json(p.cells.size())},
                         {"place", to_array(p.place)},
                         {"pivot", to_array(p.pivot)},
                         {"turn", p.turn},
                         {"rate", p.rate},
                         {"chunks", chunks_json(p.cells, data)}});
    for (const Light& l : s.lights)
        lights.push_back(to_json(l));
    for (const Camera& c : s.cameras)
        cameras.push_back(to_json(c));
    const Json root = {{"stage", "blocks"},
                       {"version", 1},
                       {"name", s.name},
                       {"edge", s.world.edge},
                       {"size", size_json(s.world.still.size())},
                       {"palette", std::move(palette)},
                       {"chunks", std::move(chunks)},
                       {"props", std::move(props)},
                       {"lights", std::move(lights)},
                       {"cameras", std::move(cameras)}};
    const std::string text = json_text(root);
    std::vector<std::uint8_t> out(mark, mark + mark_bytes);
    for (int i = 0; i < 4; ++i)
        out.push_back(static_cast<std::uint8_t>(text.size() >> (8 * i)));
    out.insert(out.end(), text.begin(), text.end());
    out.insert(out.end(), data.begin(), data.end());
    return out;
}

Result<Contents> unpacked(std::span<const std::uint8_t> bytes, const std::string& name, std::size_t limit) {
    try {
        return Reader(bytes, limit).read();
    } catch (const ReadFailure& f) {
        return fail(f.what, name + "#" + f.pointer, f.remedy);
    } catch (const Json::exception& e) {
        return fail(std::string("its header is not JSON: ") + e.what(),
                    name + "#at byte " + std::to_string(head_bytes));
    }
}

Result<void> write_blocks(const Contents& contents, const std::filesystem::path& path) {
    const std::vector<std::uint8_t> bytes = packed(contents);
    return write_file_atomically(path, bytes.data(), bytes.size());
}

} // namespace mirolux::blocks

namespace mirolux {

Result<std::shared_ptr<const SceneAsset>> import_blocks(const std::filesystem::path& path,
                                                        const ImportOptions& options) {
    auto bytes = read_file(path);
    if (!bytes) return tl::unexpected(bytes.error());
    auto contents =
        blocks::unpacked(*bytes, path.string(), options.memoryLimit ? options.memoryLimit : machine_memory() / 8);
    if (!contents) return tl::unexpected(contents.error());
    SceneAsset asset;
    asset.path = path.string();
    Digest digest;
    digest.add(bytes->data(), bytes->size());
    asset.digest = asset.fileDigest = digest.value;
    asset.materials = {Material{}}; // as of every asset: the default one is the last
    asset.lights = std::move(contents->lights);
    asset.cameras = std::move(contents->cameras);
    asset.bounds = {glm::vec3(0.0f), glm::vec3(contents->world.still.size()) * contents->world.edge};
    asset.blocks = std::make_shared<const blocks::World>(std::move(contents->world));
    return std::make_shared<const SceneAsset>(std::move(asset));
}

} // namespace mirolux
