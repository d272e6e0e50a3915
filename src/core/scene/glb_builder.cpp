#include "core/scene/glb_builder.h"
#include <algorithm>

namespace mirolux::gltf {

int GlbBuilder::view(const void* data, std::size_t bytes, int target) {
    binary.resize((binary.size() + 3) / 4 * 4, 0);
    Json v = {{"buffer", 0}, {"byteOffset", binary.size()}, {"byteLength", bytes}};
    if (target != 0) v["target"] = target;
    json["bufferViews"].push_back(std::move(v));
    const auto* p = static_cast<const std::uint8_t*>(data);
    binary.insert(binary.end(), p, p + bytes);
    return static_cast<int>(json["bufferViews"].size()) - 1;
}

int GlbBuilder::accessor(int view, int type, std::size_t count, const char* shape) {
    json["accessors"].push_back({{"bufferView", view}, {"componentType", type}, {"count", count}, {"type", shape}});
    return static_cast<int>(json["accessors"].size()) - 1;
}

int GlbBuilder::floats(const std::vector<float>& values, const char* shape, int components, int target) {
    const auto n = static_cast<std::size_t>(components);
    const int a = accessor(view(values.data(), values.size() * 4, target), 5126, values.size() / n, shape);
    if (components > 4) return a;
    std::vector<float> low(n, 3.4e38f), high(n, -3.4e38f);
    for (std::size_t i = 0; i < values.size(); ++i) {
        low[i % n] = std::min(low[i % n], values[i]);
        high[i % n] = std::max(high[i % n], values[i]);
    }
    json["accessors"][static_cast<std::size_t>(a)]["min"] = low;
    json["accessors"][static_cast<std::size_t>(a)]["max"] = high;
    return a;
}

std::vector<std::uint8_t> GlbBuilder::file() const {
    Json whole = json;
    for (auto it = whole.begin(); it != whole.end();)
        it = it->is_array() && it->empty() ? whole.erase(it) : std::next(it);
    std::vector<std::uint8_t> chunk = binary;
    chunk.resize((chunk.size() + 3) / 4 * 4, 0);
    if (!chunk.empty()) whole["buffers"] = Json::array({{{"byteLength", chunk.size()}}});
    std::string text = json_text(whole);
    text.resize((text.size() + 3) / 4 * 4, ' ');
    std::vector<std::uint8_t> out;
    const auto word = [&](std::size_t v) {
        for (int k = 0; k < 4; ++k)
            out.push_back(static_cast<std::uint8_t>(v >> (8 * k)));
    };
    word(0x46546C67u);
    word(2);
    word(20 + text.size() + (chunk.empty() ? 0 : 8 + chunk.size()));
    word(text.size());
    word(0x4E4F534Au);
    out.insert(out.end(), text.begin(), text.end());
    if (!chunk.empty()) {
        word(chunk.size());
        word(0x004E4942u);
        out.insert(out.end(), chunk.begin(), chunk.end());
    }
    return out;
}

} // namespace mirolux::gltf
