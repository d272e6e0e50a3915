#include "core/visibility/baked_file.h"
#include "core/visibility/rooms.h"

namespace mirolux {

static constexpr int rooms_version = 2;
static constexpr const char* rooms_schema = "mirolux.rooms";

std::filesystem::path rooms_file(const std::filesystem::path& bakes, const std::string& digest) {
    return bakes / ("rooms-" + digest + ".cbor");
}

Result<void> write_rooms(const Rooms& r, const std::filesystem::path& file) {
    std::vector<std::uint8_t> cells;
    for (const std::uint16_t room : r.room) {
        cells.push_back(static_cast<std::uint8_t>(room));
        cells.push_back(static_cast<std::uint8_t>(room >> 8));
    }
    nlohmann::json doors = nlohmann::json::array(), gaps = doors, middles = doors;
    for (const Rooms::Between& b : r.doors)
        doors.push_back({b.door, b.front, b.back});
    for (const Gap& g : r.gaps)
        gaps.push_back({g.from, g.to, g.open ? 1 : 0, g.way.x, g.way.y, g.way.z, g.area.low.x, g.area.low.y,
                        g.area.low.z, g.area.high.x, g.area.high.y, g.area.high.z});
    for (const glm::vec3& m : r.middles)
        middles.push_back({m.x, m.y, m.z});
    return write_document({{"schema", rooms_schema},
                           {"version", rooms_version},
                           {"digest", r.digest},
                           {"edge", r.edge},
                           {"low", {r.low.x, r.low.y, r.low.z}},
                           {"count", {r.count.x, r.count.y, r.count.z}},
                           {"cells", nlohmann::json::binary(cells)},
                           {"rooms", r.rooms},
                           {"names", r.names},
                           {"middles", middles},
                           {"doors", doors},
                           {"gaps", gaps},
                           {"ofObject", r.ofObject},
                           {"remarks", r.remarks},
                           {"seconds", r.seconds}},
                          file);
}

Result<Rooms> read_rooms(const std::filesystem::path& file) {
    const auto document = read_document(file, rooms_schema, rooms_version, "rooms");
    if (!document) return tl::unexpected(document.error());
    const nlohmann::json& j = *document;
    const auto broken = [&](const std::string& what) {
        return fail("the file of rooms is damaged: " + what, file.string(), "Find the rooms again.");
    };
    try {
        Rooms r;
        r.digest = j.at("digest").get<std::string>();
        r.edge = j.at("edge").get<float>();
        const auto low = j.at("low").get<std::array<int, 3>>(), count = j.at("count").get<std::array<int, 3>>();
        r.low = {low[0], low[1], low[2]};
        r.count = {count[0], count[1], count[2]};
        r.rooms = j.at("rooms").get<int>();
        r.names = j.at("names").get<std::vector<std::string>>();
        const auto& cells = j.at("cells").get_binary();
        for (const int n : count)
            if (n < 1 || n > (1 << 20)) return broken("its sizes do not agree");
        if (!(r.edge > 0) || r.rooms < 0 || r.rooms > 0xFFFE || r.names.size() > static_cast<std::size_t>(r.rooms) ||
            double(cells.size()) != 2.0 * double(count[0]) * double(count[1]) * double(count[2]))
            return broken("its sizes do not agree");
        const auto is_room = [&](int n) { return n >= 0 && n <= r.rooms; };
        for (std::size_t i = 0; i < cells.size(); i += 2) {
            r.room.push_back(static_cast<std::uint16_t>(cells[i] | cells[i + 1] << 8));
            if (r.room.back() != Rooms::nowhere && !is_room(r.room.back()))
                return broken("it names a room that it does not have");
        }
        for (const auto& m : j.at("middles").get<std::vector<std::array<float, 3>>>())
            r.middles.emplace_back(m[0], m[1], m[2]);
        for (const auto& d : j.at("doors").get<std::vector<std::array<int, 3>>>()) {
            if (!is_room(d[1]) || !is_room(d[2])) return broken("a door names a room that it does not have");
            r.doors.push_back({d[0], d[1], d[2]});
        }
        for (const auto& g : j.at("gaps").get<std::vector<std::array<double, 12>>>()) {
            const auto whole = [&](std::size_t i) { return static_cast<int>(std::clamp(g[i], -1e6, 1e6)); };
            r.gaps.push_back({whole(0),
                              whole(1),
                              g[2] != 0,
                              {whole(3), whole(4), whole(5)},
                              {glm::vec3(g[6], g[7], g[8]), glm::vec3(g[9], g[10], g[11])}});
            if (!is_room(r.gaps.back().from) || !is_room(r.gaps.back().to))
                return broken("a gap names a room that it does not have");
        }
        r.ofObject = j.at("ofObject").get<std::vector<std::vector<std::uint16_t>>>();
        for (const auto& of : r.ofObject)
            for (const std::uint16_t room : of)
                if (!is_room(room)) return broken("an object names a room that it does not have");
        r.remarks = j.at("remarks").get<std::vector<std::string>>();
        r.seconds = j.at("seconds").get<double>();
        if (r.middles.size() != static_cast<std::size_t>(r.rooms) + 1) return broken("its sizes do not agree");
        return r;
    } catch (const nlohmann::json::exception&) {
        return broken("a field is missing or of the wrong kind");
    }
}

std::shared_ptr<const Rooms> rooms_of(const Scene& scene, const Setup& setup, std::string* remark) {
    if (scene.bakes.empty()) {
        if (remark) *remark = "Rooms are kept beside a project: save it, then find them.";
        return nullptr;
    }
    if (scene.doors.empty()) {
        if (remark) *remark = "There are no doors: all that the frustum touches is drawn.";
        return nullptr;
    }
    auto rooms = kept_file<Rooms>(rooms_file(scene.bakes, rooms_digest(scene, setup)), read_rooms,
                                  "No rooms were found for what stands still now and for where the doors are: all that "
                                  "the frustum touches is drawn.",
                                  remark);
    if (!rooms || rooms->ofObject.size() <= scene.objects().size()) return rooms;
    if (remark) *remark = "The file of rooms is of another scene: all that the frustum touches is drawn.";
    return nullptr;
}

} // namespace mirolux
