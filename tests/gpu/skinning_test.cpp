#include "core/motion/motion.h"
#include "core/motion/scene_at.h"
#include "core/motion/skinning.h"
#include "core/plan/camera_motion.h"
#include "core/technique/plan_builder.h"
#include "session_fixture.h"
#include "support/rigs.h"

using namespace mirolux;
using namespace mirolux::test;

namespace {

std::shared_ptr<const SceneAsset> moving(unsigned seed) {
    const auto asset = MovingScene(seed).import();
    if (!asset) qFatal("%s", to_text(asset.error()).c_str());
    return *asset;
}

Scene scene_of_asset(const std::shared_ptr<const SceneAsset>& asset) {
    Light sun;
    sun.id = 1000;
    sun.type = LightType::directional;
    sun.intensity = 10;
    sun.direction = glm::normalize(glm::vec3(-0.4f, -1, -0.3f));
    return Scene{asset, {sun}, {}, {{0.2f, 0.2f, 0.2f}, {0.2f, 0.2f, 0.2f}}};
}

View whole_view(const Scene& scene, double seconds) {
    View v = view_from({3.2f, 2.2f, 4.4f}, {0.5f, 0.5f, 0}, 192, 108);
    v.camera.aim = scene_at(scene, seconds).bounds().center();
    v.seconds = seconds;
    return v;
}

const PassRecord* pass_of(const FrameRecord& r, const std::string& name) {
    for (const PassRecord& p : r.passes)
        if (p.name == name) return &p;
    return nullptr;
}

/// A surface where a ray through a pixel meets it, and where that point stood at another time.
struct Followed {
    int object = -1;
    glm::dvec3 now{0.0}, before{0.0};
};
Followed follow(const RayScene& rays, const Scene& is, const Scene& was, const Ray& ray) {
    const RayHit hit = rays.any_surface(ray, 0.01f, true);
    Followed out;
    out.object = hit.object;
    if (hit.object < 0) return out;
    const auto o = static_cast<std::size_t>(hit.object);
    const Primitive& p = is.asset->primitives[static_cast<std::size_t>(is.objects()[o].primitive)];
    const double share[3] = {1.0 - hit.u - hit.v, hit.u, hit.v};
    const auto at = [&](const Scene& s) {
        glm::dvec3 sum(0.0);
        for (std::uint32_t k = 0; k < 3; ++k)
            sum += share[k] * glm::dvec3(glm::dmat4(s.objects()[o].transform) *
                                         glm::dvec4(vertices_of(s, o)[p.indices[3 * hit.triangle + k]].position, 1));
        return sum;
    };
    out.now = at(is);
    out.before = at(was);
    return out;
}

} // namespace

class skinning_test : public QObject {
    Q_OBJECT
private slots:
    /// The kernel's vertices, read back, against bent_vertices.
    void the_device_bends_as_the_reference_does() {
        (void)answer_to(scene_of_asset(moving(1)), Setup(), whole_view(scene_of_asset(moving(1)), 0)); // a context
        auto program = gpu::build_program(session().shaders(), {{GL_COMPUTE_SHADER, "skinning/bend.glsl", ""}}, {},
                                          gpu::generated_files({}));
        QVERIFY2(program.has_value(), program ? "" : to_text(program.error()).c_str());
        double worst = 0, moved = 0;
        for (unsigned seed = 1; seed <= 4; ++seed) {
            const auto asset = moving(seed);
            const gpu::SceneResources device(asset);
            for (const double t : {0.4, 1.7, 3.1}) {
                const auto pose = make_pose(*asset->rig, usual_clips(*asset->rig), t);
                std::vector<glm::mat4> joints;
                for (const auto& of : pose->joints)
                    joints.insert(joints.end(), of.begin(), of.end());
                gpu::Buffer bodies("b"), matrices("j"), weights("w");
                std::vector<gpu::BodyData> data;
                std::vector<float> allWeights;
                for (std::size_t b = 0; b < asset->rig->bodies.size(); ++b) {
                    gpu::BodyData d = device.body(b);
                    d.weights = static_cast<std::uint32_t>(allWeights.size());
                    for (const double w : pose->weights[static_cast<std::size_t>(asset->rig->bodies[b].node)])
                        allWeights.push_back(static_cast<float>(w));
                    data.push_back(d);
                }
                bodies.upload(data.data(), data.size() * sizeof(gpu::BodyData));
                matrices.upload(joints.data(), joints.size() * sizeof(glm::mat4));
                weights.upload(allWeights.data(), allWeights.size() * 4);
                glUseProgram(program->name());
                const std::pair<const char*, GLuint> blocks[] = {{"BodyBuffer", bodies.name()},
                                                                 {"JointBuffer", matrices.name()},
                                                                 {"ShapeWeightBuffer", weights.name()},
                                                                 {"RestBuffer", device.rest()},
                                                                 {"InfluenceBuffer", device.influences()},
                                                                 {"ShapeBuffer", device.shape_changes()},
                                                                 {"VertexBuffer", device.vertices()}};
                for (const auto& [block, buffer] : blocks)
                    glBindBufferBase(GL_SHADER_STORAGE_BUFFER, program->blocks.at(block), buffer);
                for (std::size_t b = 0; b < data.size(); ++b) {
                    glProgramUniform1ui(program->name(), program->uniform("body"), static_cast<GLuint>(b));
                    glDispatchCompute((data[b].vertices + 63) / 64, 1, 1);
                }
                glMemoryBarrier(GL_BUFFER_UPDATE_BARRIER_BIT);
                for (std::size_t b = 0; b < data.size(); ++b) {
                    std::vector<Vertex> got(data[b].vertices);
                    glGetNamedBufferSubData(device.vertices(),
                                            static_cast<GLintptr>(data[b].firstVertex * sizeof(Vertex)),
                                            static_cast<GLsizeiptr>(got.size() * sizeof(Vertex)), got.data());
                    const std::vector<Vertex>& wanted = pose->bent(*asset, static_cast<int>(b));
                    const Primitive& rest =
                        asset->primitives[static_cast<std::size_t>(asset->rig->bodies[b].primitive)];
                    for (std::size_t v = 0; v < got.size(); ++v) {
                        worst = std::max({worst, double(glm::length(got[v].position - wanted[v].position)),
                                          double(glm::length(got[v].normal - wanted[v].normal)),
                                          double(glm::length(got[v].tangent - wanted[v].tangent))});
                        moved = std::max(moved, double(glm::length(got[v].position - rest.vertices[v].position)));
                        QCOMPARE(got[v].uv, rest.vertices[v].uv); // what does not bend stays
                        QCOMPARE(got[v].color, rest.vertices[v].color);
                    }
                }
            }
        }
        qInfo("vertices differ by %.2g at most", worst);
        QVERIFY2(worst < 1e-5, qPrintable(QString::number(worst)));
        QVERIFY(moved > 0.5);
    }

    /// Bent before they are drawn or while: the same picture and depths, on paths that draw depth first too.
    void both_ways_of_skinning_agree() {
        const Scene scene = scene_of_asset(moving(3));
        for (const char* path : {"forward", "deferred", "clustered-forward"})
            for (const double t : {0.3, 2.2}) {
                const View view = whole_view(scene, t);
                RenderOptions o;
                o.picture = false;
                o.targets = {{"depth"}};
                o.floatLayers = {"final"};
                const FrameRecord a = answer_to(scene, setup_with({{"path.kind", path}, {"shadow.maps", "on"}}), view,
                                                o),
                                  b = answer_to(scene,
                                                setup_with({{"path.kind", path},
                                                            {"shadow.maps", "on"},
                                                            {"geometry.skinning", "vertex"}}),
                                                view, o);
                double worst = 0;
                std::size_t surface = 0;
                for (std::size_t i = 0; i < a.targets[0].data.size(); ++i) {
                    const double x = a.targets[0].data[i], y = b.targets[0].data[i];
                    if (!std::isfinite(x) || !std::isfinite(y)) continue;
                    surface += x < 100;
                    worst = std::max(worst, std::abs(x - y) / std::max(1.0, x));
                }
                QVERIFY2(worst < 1e-5, qPrintable(QString("%1 %2").arg(path).arg(worst)));
                QVERIFY(surface > 500);
                QVERIFY(largest_relative_difference(a.floats.at("final"), b.floats.at("final"), 1.0) < 1e-3);
                // What is drawn is not the rest pose.
                QVERIFY(hdr(scene, setup_with({{"path.kind", path}}), whole_view(scene, t + 0.4)).data !=
                        a.floats.at("final").data);
            }
    }

    void depths_are_those_of_rays() {
        const Scene scene = scene_of_asset(moving(8));
        for (const double t : {0.6, 1.9}) {
            const Scene at = scene_at(scene, t);
            const View view = whole_view(scene, t);
            RenderOptions o;
            o.picture = false;
            o.targets = {{"depth"}};
            const FrameRecord r = answer_to(scene, setup_with({{"path.kind", "deferred"}}), view, o);
            const RayScene rays(at);
            int same = 0, other = 0;
            for (int y = 0; y < view.height; ++y)
                for (int x = 0; x < view.width; ++x) {
                    const Ray ray = ray_through(view, x + 0.5, y + 0.5);
                    const RayHit hit = rays.any_surface(ray, 0.01f, true);
                    if (hit.object < 0) continue;
                    const double along =
                        hit.distance * glm::dot(ray.direction, glm::normalize(view.camera.aim - view.camera.eye));
                    const double got = r.targets[0].data[std::size_t(y) * std::size_t(view.width) + std::size_t(x)];
                    (std::abs(got - along) < 1e-3 * along ? same : other)++;
                }
            QVERIFY2(same > 300 && other < same / 50, qPrintable(QString("%1 as rays, %2 not").arg(same).arg(other)));
        }
    }

    /// Where the point of a bent surface that a pixel shows stood in the frame before, carried by its own triangle.
    void motion_follows_bones_and_shapes() {
        const Scene scene = scene_of_asset(moving(4));
        for (const char* way : {"compute", "vertex"}) {
            const Setup setup =
                setup_with({{"motion.write", "always"}, {"path.kind", "deferred"}, {"geometry.skinning", way}});
            const double t = 1.4, step = 0.02;
            View before = whole_view(scene, t), now = before;
            before.seconds = t - step;
            RenderOptions o;
            o.picture = false;
            o.targets = {{"motion"}};
            (void)answer_to(random_scene(1, 1), setup, before, o); // another scene: a cut
            (void)answer_to(scene, setup, before, o);
            const FrameRecord r = answer_to(scene, setup, now, o);
            const Scene is = scene_at(scene, t), was = scene_at(scene, t - step);
            const RayScene rays(is);
            int compared = 0, off = 0;
            double most = 0;
            for (int y = 0; y < now.height; ++y)
                for (int x = 0; x < now.width; ++x) {
                    const Followed f = follow(rays, is, was, ray_through(now, x + 0.5, y + 0.5));
                    if (f.object < 0) continue;
                    const auto a = project(now, glm::vec3(f.now)), b = project(now, glm::vec3(f.before));
                    if (!a || !b) continue;
                    const std::size_t texel =
                        (std::size_t(y) * std::size_t(now.width) + std::size_t(x)) * std::size_t(r.targets[0].channels);
                    const glm::vec2 got(r.targets[0].data[texel], r.targets[0].data[texel + 1]), wanted = *a - *b;
                    ++compared;
                    off += glm::length(got - wanted) > 0.02f + 0.01f * glm::length(wanted);
                    most = std::max(most, double(glm::length(wanted)));
                }
            QVERIFY2(compared > 400 && off < compared / 40,
                     qPrintable(QString("%1: %2 of %3 differ").arg(way).arg(off).arg(compared)));
            QVERIFY2(most > 0.5, qPrintable(QString::number(most)));
        }
    }

    /// Kept maps are drawn again where something in them has bent, and hold what fresh ones hold.
    void shadow_maps_know_what_has_bent() {
        const Scene scene = scene_of_asset(moving(6));
        const Setup kept = setup_with({{"path.kind", "deferred"}, {"shadow.maps", "on"}, {"shadow.update", "changed"}}),
                    fresh = setup_with({{"path.kind", "deferred"}, {"shadow.maps", "on"}, {"shadow.update", "always"}});
        View view = whole_view(scene, 0.5);
        (void)hdr(scene, kept, view);
        view.seconds = 0.9; // from the same place: the maps stay where they are
        const FloatImage bent = hdr(scene, kept, view);
        QVERIFY(bent.data == hdr(scene, fresh, view).data);
        QVERIFY(bent.data != hdr(scene, setup_with({{"path.kind", "deferred"}}), view).data); // there are shadows
    }

    void its_work_is_counted_and_a_rigid_scene_has_none() {
        const auto asset = moving(2);
        const Scene scene = scene_of_asset(asset);
        const View view = whole_view(scene, 1);
        std::uint64_t vertices = 0, reads = 0;
        for (const Body& b : asset->rig->bodies) {
            const std::size_t n = asset->primitives[static_cast<std::size_t>(b.primitive)].vertices.size();
            vertices += n;
            for (const glm::vec4& s : b.bending->shares)
                for (int k = 0; k < 4; ++k)
                    reads += s[k] > 0;
            const Scene at = scene_at(scene, 1);
            for (const double w : at.placed->pose->weights[static_cast<std::size_t>(b.node)])
                reads += w != 0 ? n : 0;
        }
        RenderOptions o;
        o.count = true;
        o.picture = false;
        const FrameRecord r = answer_to(scene, setup_with({{"path.kind", "deferred"}}), view, o);
        const PassRecord* skinning = pass_of(r, "skinning");
        QVERIFY(skinning);
        QCOMPARE(skinning->work.at("bentVertices"), vertices);
        QCOMPARE(skinning->work.at("bendReads"), reads);
        QCOMPARE(skinning->work.at("draws"), std::uint64_t(asset->rig->bodies.size()));
        const FrameRecord v =
            answer_to(scene, setup_with({{"path.kind", "deferred"}, {"geometry.skinning", "vertex"}}), view, o);
        QVERIFY(!pass_of(v, "skinning"));
        QCOMPARE(pass_of(v, "g-buffer")->work.at("bentVertices"), vertices); // both stand in the view
        CostTerms terms;
        const FramePlan plan = plan_frame(scene, Setup(), view);
        technique::skinning().price(plan, *plan.pass("skinning"), skinning->work, terms);
        QVERIFY(terms.at("operation") > 0);
        // A scene in which nothing bends: no pass, whatever is chosen, and the same bits.
        const Scene rigid = random_scene(3, 5);
        const View other = view_from({8, 4, 12}, {0, 1, 0}, 64, 36);
        QVERIFY(!plan_frame(rigid, Setup(), other).pass("skinning"));
        QVERIFY(hdr(rigid, Setup(), other).data ==
                hdr(rigid, setup_with({{"geometry.skinning", "vertex"}}), other).data);
    }

    void both_eyes_are_bent_once() {
        const Scene scene = scene_of_asset(moving(5));
        View view = whole_view(scene, 1.1);
        view.stereo = Stereo::twoPasses;
        const FloatImage two = hdr(scene, setup_with({{"path.kind", "deferred"}}), view);
        view.stereo = Stereo::onePass;
        QVERIFY(largest_relative_difference(two, hdr(scene, setup_with({{"path.kind", "deferred"}}), view), 1.0) <
                1e-3);
        QVERIFY(largest_relative_difference(
                    two, hdr(scene, setup_with({{"path.kind", "deferred"}, {"geometry.skinning", "vertex"}}), view),
                    1.0) < 1e-3);
        RenderOptions o;
        o.count = true;
        const FrameRecord r = answer_to(scene, setup_with({{"path.kind", "deferred"}}), view, o);
        QCOMPARE(pass_of(r, "skinning")->work.at("draws"), std::uint64_t(2));
    }
};

MIROLUX_TEST(skinning_test)
#include "skinning_test.moc"
