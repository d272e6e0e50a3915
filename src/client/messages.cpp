#include "client/messages.h"
#include <cstring>
#include <unistd.h>

namespace mirolux {

void send_message(zmq::socket_t& socket, const Json& message, int milliseconds) {
    const std::vector<std::uint8_t> bytes = Json::to_cbor(message);
    socket.set(zmq::sockopt::sndtimeo,
               milliseconds); // a pair without its other end yet would drop what is sent at once
    if (!socket.send(zmq::buffer(bytes), zmq::send_flags::none))
        throw ReadFailure{"the other end does not take messages", "", ""};
}

std::optional<Json> receive_message(zmq::socket_t& socket, int milliseconds) {
    zmq::pollitem_t items[] = {{socket.handle(), 0, ZMQ_POLLIN, 0}};
    try {
        if (zmq::poll(items, 1, std::chrono::milliseconds(milliseconds)) == 0) return std::nullopt;
    } catch (const zmq::error_t& e) {
        if (e.num() == EINTR) return std::nullopt;
        throw ReadFailure{e.what(), "", ""};
    }
    zmq::message_t message;
    if (!socket.recv(message, zmq::recv_flags::dontwait)) return std::nullopt;
    return message_from_bytes(static_cast<const std::uint8_t*>(message.data()), message.size());
}

Result<PackedRecord> pack_record(const FrameRecord& record) {
    Json message = {{"kind", "record"}, {"record", to_json(record)}, {"images", Json::array()}};
    struct Part {
        const void* data;
        std::size_t bytes;
    };
    std::vector<Part> parts;
    std::size_t total = 0;
    auto add = [&](const char* role, const std::string& layer, int width, int height, int channels, const void* data,
                   std::size_t bytes) {
        message["images"].push_back({{"role", role},
                                     {"layer", layer},
                                     {"width", width},
                                     {"height", height},
                                     {"channels", channels},
                                     {"offset", total},
                                     {"bytes", bytes}});
        parts.push_back({data, bytes});
        total += bytes;
    };
    if (!record.picture.empty())
        add("picture", "", record.picture.width, record.picture.height, 4, record.picture.rgba.data(),
            record.picture.rgba.size());
    for (const auto& [layer, image] : record.floats)
        add("float", layer, image.width, image.height, image.channels, image.data.data(), image.data.size() * 4);
    for (const FloatImage& image : record.targets)
        add("target", "", image.width, image.height, image.channels, image.data.data(), image.data.size() * 4);
    for (const WrittenTarget& w : record.writes) {
        add("write", w.target, w.image.width, w.image.height, 4, w.image.rgba.data(), w.image.rgba.size());
        message["images"].back()["pass"] = w.pass;
    }
    for (const auto& [layer, image] : record.thumbnails)
        add("thumbnail", layer, image.width, image.height, 4, image.rgba.data(), image.rgba.size());
    for (const auto& [name, g] : {std::pair("grid", &record.lightGrid), {"transparentGrid", &record.transparentGrid}}) {
        if (g->columns == 0) continue;
        message[name] = {{"columns", g->columns}, {"rows", g->rows},         {"slices", g->slices},
                         {"tile", g->tile},       {"overflow", g->overflow}, {"overflowCells", g->overflowCells}};
        add("offsets", name, 0, 0, 0, g->offsets.data(), g->offsets.size() * 4);
        add("indices", name, 0, 0, 0, g->indices.data(), g->indices.size() * 4);
    }
    if (total == 0) return PackedRecord{std::move(message), std::nullopt};
    auto memory = SharedMemory::make(total);
    if (!memory) return tl::unexpected(memory.error());
    std::size_t offset = 0;
    for (const Part& p : parts) {
        std::memcpy(memory->data() + offset, p.data, p.bytes);
        offset += p.bytes;
    }
    message["memory"] = {{"process", getpid()}, {"descriptor", memory->fd()}};
    message["bytes"] = total;
    return PackedRecord{std::move(message), std::move(*memory)};
}

Result<FrameRecord> unpack_record(const Json& message) {
    try {
        const JsonCursor root(message);
        FrameRecord record = record_from_json(root["record"]);
        for (const auto& [name, grid] :
             {std::pair("grid", &record.lightGrid), {"transparentGrid", &record.transparentGrid}}) {
            if (!root.has(name)) continue;
            const JsonCursor g = root[name];
            grid->columns = static_cast<int>(g["columns"].whole(16384));
            grid->rows = static_cast<int>(g["rows"].whole(16384));
            grid->slices = static_cast<int>(g["slices"].whole(64));
            grid->tile = static_cast<int>(g["tile"].whole(64));
            grid->overflow = g["overflow"].whole(~0ull);
            grid->overflowCells = static_cast<int>(g["overflowCells"].whole(0x7FFFFFFF));
        }
        const JsonCursor images = root.list("images");
        if (images.size() == 0) return record;
        const std::size_t total = root["bytes"].whole(1ull << 40);
        auto memory = SharedMemory::take(static_cast<int>(root["memory"]["process"].whole(0x7FFFFFFF)),
                                         static_cast<int>(root["memory"]["descriptor"].whole(0x7FFFFFFF)), total);
        if (!memory) return tl::unexpected(memory.error());
        for (std::size_t i = 0; i < images.size(); ++i) {
            const JsonCursor image = images.at(i);
            const std::size_t offset = image["offset"].whole(total), bytes = image["bytes"].whole(total - offset);
            const int width = static_cast<int>(image["width"].whole(16384)),
                      height = static_cast<int>(image["height"].whole(16384)),
                      channels = static_cast<int>(image["channels"].whole(4));
            const std::string role = image["role"].text(), layer = image["layer"].text();
            const std::uint8_t* p = memory->data() + offset;
            if (role == "offsets" || role == "indices") {
                cull::LightGrid& grid = layer == "grid" ? record.lightGrid : record.transparentGrid;
                auto& list = role == "offsets" ? grid.offsets : grid.indices;
                list.resize(bytes / 4);
                std::memcpy(list.data(), p, bytes / 4 * 4);
            } else if (role == "float" || role == "target") {
                FloatImage f{width, height, channels, std::vector<float>(bytes / 4)};
                std::memcpy(f.data.data(), p, bytes / 4 * 4);
                if (role == "float")
                    record.floats[layer] = std::move(f);
                else
                    record.targets.push_back(std::move(f));
            } else {
                ByteImage b{width, height, std::vector<std::uint8_t>(p, p + bytes)};
                if (role == "write")
                    record.writes.push_back({image["pass"].text(), layer, std::move(b)});
                else
                    (role == "picture" ? record.picture : record.thumbnails[layer]) = std::move(b);
            }
        }
        return record;
    } catch (const ReadFailure& f) {
        return fail("the worker's answer could not be read: " + f.what, f.pointer,
                    "Worker and program must be of one build.");
    }
}

} // namespace mirolux
