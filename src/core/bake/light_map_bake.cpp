#include "core/bake/light_map_files.h"
#include "core/bake/map_light.h"
#include "core/bake/texel_work.h"
#include <algorithm>

namespace mirolux {

struct LightMapBake::State {
    Scene scene;
    LightMapOptions options;
    LightMapLayout layout;
    std::string digest, sceneDigest, remark;
    std::filesystem::path index;
    std::shared_ptr<const RayScene> rays;
    std::vector<MapPoint> targets;
    std::vector<LayerLight> light;
    /// Sums by target.
    struct Layer {
        LightMapFiles files;
        std::vector<glm::vec3> straight, bounced;
        std::vector<glm::mat3> toward;
    };
    std::vector<Layer> layers;         // parallel to light
    std::size_t done = 0;              // of targets
    std::vector<std::uint8_t> covered; // by target: within something

    void add_layers(const Setup& setup) {
        light = layers_of_light(scene, setup, options.bounces, rays);
        for (const LayerLight& l : light)
            layers.push_back({light_map_files(scene.bakes, digest, l.light),
                              std::vector<glm::vec3>(targets.size(), glm::vec3(0.0f)),
                              std::vector<glm::vec3>(targets.size(), glm::vec3(0.0f)),
                              std::vector<glm::mat3>(targets.size(), glm::mat3(0.0f))});
    }

    /// What a run before has kept: so many targets, in order.
    void take_kept() {
        std::error_code e;
        if (!std::filesystem::exists(index, e)) return;
        const auto aside = [&] {
            std::vector<std::filesystem::path> files = {index};
            for (const Layer& l : layers) {
                files.insert(files.end(), {l.files.direct, l.files.indirect});
                files.insert(files.end(), l.files.toward.begin(), l.files.toward.end());
            }
            set_aside(files);
            remark =
                "The light map of these circumstances was damaged and is set aside: " + index.string() + ".damaged.";
        };
        const auto j = read_light_map_index(index);
        if (!j || j->common.width != layout.width || j->common.height != layout.height ||
            j->common.all != targets.size() || j->switched.size() + 1 != layers.size())
            return aside();
        std::vector<LightOfMap> read;
        for (std::size_t k = 0; k < layers.size(); ++k) {
            if (k > 0 && j->switched[k - 1].light != light[k].light) return aside();
            auto layer = read_layer(layers[k].files, layout.width, layout.height);
            if (!layer) return aside();
            if (k > 0 && j->switched[k - 1].intensity != light[k].intensity) { // it goes on as it was begun
                const float gain = light[k].intensity / j->switched[k - 1].intensity;
                for (FloatImage* image :
                     {&layer->direct, &layer->indirect, &layer->toward[0], &layer->toward[1], &layer->toward[2]})
                    for (std::size_t i = 0; i < image->data.size(); ++i)
                        if (i % 4 != 3) image->data[i] *= gain;
            }
            read.push_back(std::move(*layer));
        }
        const auto pixel = [](const FloatImage& image, std::size_t texel) {
            const float* p = image.data.data() + texel * static_cast<std::size_t>(image.channels);
            return glm::vec4(p[0], p[1], p[2], p[3]);
        };
        for (std::size_t i = 0; i < j->common.done; ++i)
            for (std::size_t k = 0; k < layers.size(); ++k) {
                const std::size_t texel = targets[i].texel;
                const glm::vec4 straight = pixel(read[k].direct, texel);
                layers[k].straight[i] = glm::vec3(straight);
                layers[k].bounced[i] = glm::vec3(pixel(read[k].indirect, texel));
                for (int c = 0; c < 3; ++c)
                    layers[k].toward[i][c] = glm::vec3(pixel(read[k].toward[static_cast<std::size_t>(c)], texel));
                covered[i] = straight.w < 0.75f;
            }
        done = j->common.done;
    }
    void bake(std::size_t i, std::uint64_t& taken) {
        covered[i] = covered_up(*rays, targets[i].point, taken);
        if (covered[i]) return;
        const auto place = static_cast<std::uint32_t>(i);
        const std::vector<SurfacePoint> points = spread_over(targets[i], *rays, points_of_texel, taken);
        for (std::size_t k = 0; k < layers.size(); ++k) {
            Layer& l = layers[k];
            glm::dmat3 towardLamps(0.0), towardAll(0.0);
            l.straight[i] = glm::vec3(light[k].straight(points, place, taken, towardLamps));
            glm::dvec3 bounced(0.0);
            for (int n = 0; n < options.samples; ++n)
                bounced += light[k].indirect->falling(points[static_cast<std::size_t>(n) % points.size()], place,
                                                      static_cast<std::uint32_t>(n), taken, &towardAll);
            l.bounced[i] = glm::vec3(bounced / double(options.samples));
            l.toward[i] = glm::mat3(towardLamps + towardAll / double(options.samples));
        }
    }
    template <class Value>
    FloatImage plain(const Value& value) const {
        FloatImage out = empty_map(layout);
        for (std::size_t i = 0; i < done; ++i) {
            float* p = out.data.data() + 4 * targets[i].texel;
            const glm::vec3 v = value(i);
            for (int c = 0; c < 3; ++c)
                p[c] = v[c];
            p[3] = covered[i] ? 0.5f : 1.0f;
        }
        return out;
    }
    LightOfMap layer(std::size_t k) const {
        const Layer& l = layers[k];
        LightOfMap out{light[k].light,
                       light[k].intensity,
                       plain([&](std::size_t i) { return l.straight[i]; }),
                       plain([&](std::size_t i) { return l.bounced[i]; }),
                       {}};
        for (std::size_t c = 0; c < 3; ++c)
            out.toward[c] = plain([&](std::size_t i) { return l.toward[i][static_cast<int>(c)]; });
        return out;
    }
};

LightMapBake::LightMapBake(std::unique_ptr<State> state) : state_(std::move(state)) {}
LightMapBake::~LightMapBake() = default;

Result<std::unique_ptr<LightMapBake>> LightMapBake::begin(const Scene& scene, const Setup& setup,
                                                          const LightMapOptions& options) {
    auto work = texel_work(scene, setup, options.density, "a light map is");
    if (!work) return tl::unexpected(work.error());
    auto s = std::make_unique<State>();
    s->scene = std::move(work->scene);
    s->options = options;
    s->layout = *work->layout;
    s->digest = light_map_digest(scene, setup, options);
    s->sceneDigest = light_map_scene_digest(scene, setup);
    s->index = light_map_files(scene.bakes, s->digest).index;
    s->rays = std::move(work->rays);
    s->targets = std::move(work->targets);
    s->covered.assign(s->targets.size(), 0);
    s->add_layers(setup);
    s->take_kept();
    auto out = std::unique_ptr<LightMapBake>(new LightMapBake(std::move(s)));
    out->set_places(out->state_->targets.size(), out->state_->done, 64);
    out->remark_ = out->state_->remark;
    return out;
}

Result<void> LightMapBake::keep() {
    State& s = *state_;
    s.done = done();
    std::vector<LightOfMap> layers;
    for (std::size_t k = 0; k < s.layers.size(); ++k)
        layers.push_back(s.layer(k));
    LightMapIndex index;
    index.common.scene = s.sceneDigest;
    index.common.all = s.targets.size();
    index.common.done = s.done;
    index.options = s.options;
    return write_light_map(s.scene, s.layout, layers, index, s.digest);
}

void LightMapBake::compute(std::size_t place, std::uint64_t& rays) {
    state_->bake(place, rays);
}

const std::string& LightMapBake::digest() const {
    return state_->digest;
}

LightMap LightMapBake::map() const {
    state_->done = done();
    LightMap out{state_->layout, state_->options.density, {}};
    for (std::size_t k = 0; k < state_->layers.size(); ++k) {
        out.layers.push_back(state_->layer(k));
        fill(out.layers.back(), out.layout);
    }
    return out;
}

} // namespace mirolux
