#include "core/blocks/slice.h"
#include "core/blocks/flood_audit.h"
#include <fmt/format.h>

namespace mirolux::blocks {

static std::uint8_t coded(double v) {
    return static_cast<std::uint8_t>(std::lround(255 * srgb_encode(std::clamp(v, 0.0, 1.0))));
}

ByteImage slice(const BlockLight& light, Field field, int height) {
    const World& w = light.world();
    const glm::ivec3 size = w.still.size();
    ByteImage out{size.x, size.z,
                  std::vector<std::uint8_t>(std::size_t(4) * std::size_t(size.x) * std::size_t(size.z))};
    constexpr int deep = 24; // cells under the slice that are looked down to
    for (int z = 0; z < size.z; ++z)
        for (int x = 0; x < size.x; ++x) {
            const glm::ivec3 c(x, height, z);
            const std::uint8_t m = w.still.at(c);
            const bool shut = m != 0 && w.material(m).stops_light();
            glm::dvec3 color(0.0);
            if (field == Field::cells || (!shut && field == Field::hits)) {
                int down = 0;
                while (down < deep && w.still.at(c - glm::ivec3(0, down, 0)) == 0)
                    ++down;
                color = glm::dvec3(w.material(w.still.at(c - glm::ivec3(0, down, 0))).color) *
                        (field == Field::cells ? std::pow(0.88, down) * (down > 0 ? 0.7 : 1.0) : 0.12);
            } else if (field == Field::hits) {
                const std::optional<CastHits> hits = light.hits({(glm::dvec3(c) + 0.5) * double(w.edge), 0, 2, m});
                color = glm::dvec3(0.05);
                if (hits) color += glm::dvec3(hits->toward, 0, hits->away) / 6.0;
            } else if (shut)
                color = glm::dvec3(w.material(m).color) * 0.1;
            else if (field == Field::ways || field == Field::steps) {
                const Origin o = light.origins() ? light.origins()->at(c) : Origin{};
                const glm::dvec3 way(o.via[0], o.via[1], o.via[2]);
                if (o.level > 0 && field == Field::steps) {
                    const glm::ivec3 lamp = w.material(o.material).light;
                    const double most = std::max({lamp.x, lamp.y, lamp.z, 1});
                    color = glm::dvec3(std::pow(o.level / most, 1.6));
                } else if (o.level > 0)
                    color = way == glm::dvec3(0.0) ? glm::dvec3(1.0) : 0.5 + 0.5 * glm::normalize(way);
            } else if (const Flood* f = light.flood()) {
                const auto level = [&](Flood::Channel channel) { return std::pow(f->at(c, channel) / 63.0, 1.6); };
                color = field == Field::sky ? glm::dvec3(level(Flood::sun))
                                            : glm::dvec3(level(Flood::red), level(Flood::green), level(Flood::blue));
            }
            std::uint8_t* p = &out.rgba[4 * (std::size_t(z) * std::size_t(size.x) + std::size_t(x))];
            for (int k = 0; k < 3; ++k)
                p[k] = coded(color[k]);
            p[3] = 255;
        }
    return out;
}

std::string told(const BlockLight& light, const glm::ivec3& c) {
    const World& w = light.world();
    if (!w.still.holds(c)) return "beyond the world";
    const std::uint8_t m = w.still.at(c);
    std::string text = fmt::format("{}, {}, {}: {}", c.x, c.y, c.z, w.material(m).name);
    if (const Flood* f = light.flood()) {
        text += fmt::format("; levels {}, {}, {}, sky {}", f->at(c, Flood::red), f->at(c, Flood::green),
                            f->at(c, Flood::blue), f->at(c, Flood::sun));
        text += ". " + why_dark(*f, w.palette, c);
    }
    if (const OriginFlood* o = light.origins())
        if (const auto way = o->way_back(c); !way.empty())
            text += fmt::format(". From the {} at {}, {}, {}{}", w.material(o->at(c).material).name, way.back().x,
                                way.back().y, way.back().z,
                                way.size() > 2 ? fmt::format(" by {} turns", way.size() - 2) : std::string());
    return text;
}

} // namespace mirolux::blocks
