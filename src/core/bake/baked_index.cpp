#include "core/bake/baked_index.h"
#include "core/base/recent.h"
#include "core/io/file.h"

namespace mirolux {

using nlohmann::json;

std::optional<BakedIndex> read_baked_index(const std::filesystem::path& file, const std::string& schema, int version) {
    const auto text = read_file(file);
    if (!text) return std::nullopt;
    json j = json::parse(text->begin(), text->end(), nullptr, false);
    if (!j.is_object()) return std::nullopt;
    try {
        if (j.at("schema") != schema || j.at("version") != version) return std::nullopt;
        BakedIndex out;
        out.scene = j.at("scene").get<std::string>();
        out.density = j.at("density").get<float>();
        out.samples = j.at("samples").get<int>();
        out.width = j.at("width").get<int>();
        out.height = j.at("height").get<int>();
        out.all = j.at("all").get<std::size_t>();
        out.done = j.at("done").get<std::size_t>();
        if (out.done > out.all) return std::nullopt;
        out.rest = std::move(j);
        return out;
    } catch (const json::exception&) {
        return std::nullopt;
    }
}

json to_json(const BakedIndex& index, const std::string& schema, int version) {
    json out = index.rest.is_object() ? index.rest : json::object();
    out.update({{"schema", schema},
                {"version", version},
                {"scene", index.scene},
                {"density", index.density},
                {"samples", index.samples},
                {"width", index.width},
                {"height", index.height},
                {"all", index.all},
                {"done", index.done}});
    return out;
}

std::vector<std::pair<std::filesystem::path, BakedIndex>> all_baked(const BakedQuestion& q) {
    std::vector<std::pair<std::filesystem::path, BakedIndex>> out;
    std::error_code e;
    if (q.bakes.empty()) return out;
    for (const auto& entry : std::filesystem::directory_iterator(q.bakes, e)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with(q.prefix) || !name.ends_with(".json")) continue;
        auto index = read_baked_index(entry.path(), q.schema, q.version);
        if (index && index->scene == q.scene && index->complete() && (q.density == 0 || q.density == index->density))
            out.emplace_back(entry.path(), std::move(*index));
    }
    return out;
}

static BakedAnswer look_for(const BakedQuestion& q) {
    if (auto index = read_baked_index(q.exact, q.schema, q.version); index && index->complete())
        return {q.exact, BakedState::found, std::make_shared<const BakedIndex>(std::move(*index))};
    std::error_code e;
    BakedAnswer out;
    std::filesystem::file_time_type newest{};
    for (const auto& entry : std::filesystem::directory_iterator(q.bakes, e)) {
        const std::string name = entry.path().filename().string();
        if (!name.starts_with(q.prefix) || !name.ends_with(".json")) continue;
        auto index = read_baked_index(entry.path(), q.schema, q.version);
        if (!index) continue;
        const BakedState state = index->scene != q.scene                         ? BakedState::stale
                                 : !index->complete()                            ? BakedState::under
                                 : q.density != 0 && q.density != index->density ? BakedState::none
                                                                                 : BakedState::found;
        if (state == BakedState::found) {
            const auto time = entry.last_write_time(e);
            if (!out.index.empty() && time <= newest) continue;
            out = {entry.path(), state, std::make_shared<const BakedIndex>(std::move(*index))};
            newest = time;
        } else if (out.index.empty() && state != BakedState::none && out.state != BakedState::under)
            out.state = state;
    }
    return out;
}

BakedAnswer find_baked(const BakedQuestion& question) {
    if (question.bakes.empty()) return {};
    std::error_code e;
    using Asked = std::pair<BakedQuestion, std::filesystem::file_time_type>;
    static Recent<Asked, BakedAnswer> kept(12);
    return *kept.of({question, std::filesystem::last_write_time(question.bakes, e)},
                    [&](const Asked&) { return look_for(question); });
}

void set_aside(const std::vector<std::filesystem::path>& files) {
    std::error_code e;
    for (const auto& f : files)
        std::filesystem::rename(f, f.string() + ".damaged", e);
}

} // namespace mirolux
