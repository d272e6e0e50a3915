#include "core/io/wire.h"
#include "core/scene/built.h"
#include <algorithm>

namespace mirolux {

static Json to_json(const Make& m) {
    if (!m.copy.empty()) return {{"copy", m.copy}};
    if (!m.model.empty()) return {{"model", m.model}};
    const Shape s = m.shape.value_or(Shape{});
    Json j = {{"shape", word(s.kind)}, {"size", to_array(s.size)}, {"segments", s.segments}};
    if (uses_rings(s.kind)) j["rings"] = s.rings;
    if (s.kind == ShapeKind::torus) j["tube"] = s.tube;
    if (!m.material.empty()) j["material"] = m.material;
    j["color"] = to_array(m.own.color);
    j["metallic"] = m.own.metallic;
    j["roughness"] = m.own.roughness;
    if (m.own.emission != glm::vec3(0.0f)) j["emission"] = to_array(m.own.emission);
    return j;
}

static Make make_from_json(const JsonCursor& j) {
    Make m;
    if (j.has("copy")) {
        m.copy = j["copy"].text();
        return m;
    }
    if (j.has("model")) {
        m.model = j["model"].text();
        if (m.model.empty()) j["model"].complain("is empty");
        return m;
    }
    const auto kind = shape_named(j["shape"].text());
    if (!kind)
        j["shape"].complain("is no shape", "They are plane, box, ball, cylinder, cone, capsule, torus and staircase.");
    Shape s = usual_shape(*kind);
    s.size = j.vector<3>("size", s.size);
    s.tube = static_cast<float>(j.number("tube", s.tube, 0, 1e4));
    s.segments = static_cast<int>(j.whole("segments", static_cast<std::uint64_t>(s.segments), 512));
    s.rings = static_cast<int>(j.whole("rings", static_cast<std::uint64_t>(s.rings), 512));
    m.shape = settled(s);
    m.material = j.text("material", "");
    const auto colour = [&](const char* key, glm::vec3 usual, float most) {
        const glm::vec3 v = j.vector<3>(key, usual);
        for (int k = 0; k < 3; ++k)
            if (!(v[k] >= 0 && v[k] <= most)) j[key].complain("is out of range");
        return v;
    };
    m.own.color = colour("color", m.own.color, 1);
    m.own.emission = colour("emission", m.own.emission, 1e9f);
    m.own.metallic = static_cast<float>(j.number("metallic", m.own.metallic, 0, 1));
    m.own.roughness = static_cast<float>(j.number("roughness", m.own.roughness, 0, 1));
    return m;
}

Json to_json(const Built& built) {
    Json makes = Json::array(), things = Json::array();
    std::vector<const Make*> made;
    std::unordered_map<const Make*, std::size_t> places;
    for (const BuiltThing& t : built.things) {
        if (!t.make) continue;
        auto it = places.find(t.make.get());
        if (it == places.end()) {
            const auto same = std::find_if(made.begin(), made.end(), [&](const Make* m) { return *m == *t.make; });
            it = places.emplace(t.make.get(), static_cast<std::size_t>(same - made.begin())).first;
            if (same == made.end()) {
                made.push_back(t.make.get());
                makes.push_back(to_json(*t.make));
            }
        }
        things.push_back({{"id", t.id}, {"name", t.name}, {"make", it->second}});
    }
    return {{"makes", makes}, {"things", things}};
}

BuiltPtr built_from_json(const JsonCursor& j) {
    std::vector<std::shared_ptr<const Make>> makes;
    const JsonCursor made = j.list("makes"), things = j.list("things");
    for (std::size_t i = 0; i < made.size(); ++i)
        makes.push_back(std::make_shared<const Make>(make_from_json(made.at(i))));
    if (things.size() > most_things)
        things.complain("are more than " + std::to_string(most_things), "Build with fewer things.");
    Built out;
    std::set<std::string> ids;
    for (std::size_t i = 0; i < things.size(); ++i) {
        const JsonCursor t = things.at(i);
        const int make = t.index("make", makes.size());
        if (make < 0) t.complain("lacks \"make\"");
        out.things.push_back({t["id"].text(), "", makes[static_cast<std::size_t>(make)]});
        out.things.back().name = t.text("name", out.things.back().id);
        if (out.things.back().id.empty() || !ids.insert(out.things.back().id).second)
            t["id"].complain("is empty, or another thing's too");
    }
    return out.things.empty() ? nullptr : std::make_shared<const Built>(std::move(out));
}

} // namespace mirolux
