#include "core/account/pixel_account.h"
#include "core/flat/flat_light.h"
#include "core/technique/all.h"
#include "flat_session.h"
#include <set>

using namespace mirolux;
using namespace mirolux::test;

class flat_stage_test : public QObject {
    Q_OBJECT
private slots:
    void a_mask_is_the_scene_times_what_lights_sum_up_to() {
        for (unsigned seed = 1; seed <= 20; ++seed) {
            FlatStage s = flat_stage(seed, 3 + static_cast<int>(seed), 0);
            flat_choose(s, "flat.shadow", "none");
            const glm::dvec3 ambient(s.setup.color("flat.ambient"));
            QCOMPARE(wrong_pixels(s,
                                  [&](int x, int y, const glm::dvec2& at) {
                                      glm::dvec3 sum = ambient;
                                      for (const Light& l : s.scene.lights)
                                          sum += given(l, at, {});
                                      return sheet_at(s, x, y) * glm::clamp(sum, 0.0, 1.0);
                                  }),
                     0);
        }
    }

    void a_kernel_sums_what_the_mask_sums() {
        for (unsigned seed = 1; seed <= 6; ++seed)
            for (const char* lists : {"on", "off"}) {
                FlatStage s = flat_stage(seed, 3 + 11 * static_cast<int>(seed), 0);
                flat_choose(s, "flat.kind", "compute");
                flat_choose(s, "flat.shadow", "none");
                flat_choose(s, "compute.lists", lists);
                for (std::size_t i = 0; i < s.scene.lights.size(); ++i)
                    s.scene.lights[i].flat.strongest = i % 4 == 1 ? 0.7f : 0.0f;
                const glm::dvec3 ambient(s.setup.color("flat.ambient"));
                const int wrong = wrong_pixels(s, [&](int x, int y, const glm::dvec2& at) {
                    glm::dvec3 sum = ambient;
                    for (const bool limited : {true, false}) {
                        for (const Light& l : s.scene.lights)
                            if ((l.flat.strongest > 0) == limited) sum += given(l, at, {});
                        if (limited) sum = glm::min(sum, glm::max(ambient, glm::dvec3(double(0.7f))));
                    }
                    return sheet_at(s, x, y) * glm::clamp(sum, 0.0, 1.0);
                });
                // A dispatch a light rounds to half floats after each.
                QVERIFY2(wrong <= (lists == std::string("on") ? 0 : 4), qPrintable(QString::number(wrong)));
            }
    }

    /// The stage in blocks of 4 pixels is the stage at a quarter of the size, each of its pixels shown 16 times.
    void a_pixel_size_shows_the_small_stage_in_blocks() {
        for (const char* kind : {"mask", "cut", "compute", "grade", "cascades"}) {
            FlatStage s = flat_stage(21, 5, 4);
            flat_choose(s, "flat.kind", kind);
            flat_choose(s, "flat.normals", "on");
            flat_choose(s, "mask.scale", "2");
            flat_choose(s, "cascades2d.margin", "0");
            flat_choose(s, "flat.pixelScale", "4");
            flat_choose(s, "cascades2d.scale", "4");
            const FloatImage blocks = flat_floats(s, "final");
            flat_choose(s, "flat.pixelScale", "1");
            flat_choose(s, "cascades2d.scale", "1");
            s.view.width = 32;
            s.view.height = 18;
            const FloatImage small = flat_floats(s, "final");
            int other = 0;
            for (int y = 0; y < 72; ++y)
                for (int x = 0; x < 128; ++x)
                    for (int c = 0; c < 3; ++c)
                        other += std::abs(blocks.pixel(x, y)[c] - small.pixel(x / 4, y / 4)[c]) > 1.0f / 255;
            QVERIFY2(other == 0, qPrintable(QString("%1: %2").arg(kind).arg(other)));
        }
    }

    void lights_join_by_screen_and_by_the_largest() {
        for (const char* blend : {"screen", "largest"}) {
            FlatStage s = flat_stage(7, 9, 0);
            flat_choose(s, "flat.shadow", "none");
            flat_choose(s, "mask.blend", blend);
            const glm::dvec3 ambient(s.setup.color("flat.ambient"));
            QCOMPARE(wrong_pixels(s,
                                  [&](int x, int y, const glm::dvec2& at) {
                                      glm::dvec3 sum = ambient, left = 1.0 - ambient;
                                      for (const Light& l : s.scene.lights) {
                                          const glm::dvec3 v = given(l, at, {});
                                          sum = glm::max(sum, v);
                                          left *= 1.0 - glm::clamp(v, 0.0, 1.0);
                                      }
                                      return sheet_at(s, x, y) *
                                             glm::clamp(blend == std::string("screen") ? 1.0 - left : sum, 0.0, 1.0);
                                  }),
                     0);
        }
    }

    void a_cut_hides_what_lights_do_not_open() {
        for (const char* opacity : {"0.85", "1", "0.3"}) {
            FlatStage s = flat_stage(11, 7, 0);
            flat_choose(s, "flat.kind", "cut");
            flat_choose(s, "flat.shadow", "none");
            flat_choose(s, "cut.opacity", opacity);
            QCOMPARE(wrong_pixels(s,
                                  [&](int x, int y, const glm::dvec2& at) {
                                      glm::dvec3 dark(std::atof(opacity));
                                      for (const Light& l : s.scene.lights)
                                          dark -= given(l, at, {});
                                      return sheet_at(s, x, y) * (1.0 - glm::clamp(dark, 0.0, 1.0));
                                  }),
                     0);
        }
    }

    /// The stated formula, written here anew, in each of its forms; with the max on nothing is darker than graded.
    void grades_are_mixed_with_lamps_as_stated() {
        for (const char* form : {"normalised", "multiply", "scaled", "added", "unfloored"})
            for (const bool keeps : {true, false}) {
                FlatStage s = flat_stage(17, 5, 0);
                flat_choose(s, "flat.kind", "grade");
                flat_choose(s, "flat.shadow", "none");
                flat_choose(s, "grade.mix", form);
                flat_choose(s, "grade.max", keeps ? "on" : "off");
                flat_choose(s, "grade.time", "20.5");
                flat_choose(s, "grade.floor", "0.2");
                flat_choose(s, "grade.lamps", "1.3");
                flat_choose(s, "grade.luminance", keeps ? "rec709" : "even");
                flat_choose(s, "grade.lift", "0.02");
                const flat::TimeKey k = flat::time_at(flat::standard_times(), 20.5);
                const std::string mix = form;
                const glm::dvec3 rec(0.2126, 0.7152, 0.0722);
                const FloatImage graded = flat_floats(s, "graded");
                int darker = 0;
                const int wrong = wrong_pixels(s, [&](int x, int y, const glm::dvec2& at) {
                    const glm::dvec3 b = sheet_at(s, x, y);
                    glm::dvec3 g = b * glm::dvec3(k.tint) * double(k.brightness), l(0);
                    g = glm::mix(glm::dvec3(glm::dot(g, rec)), g, double(k.saturation));
                    g = 0.02 + 0.98 * glm::max(glm::dvec3(0), 0.18 + (g - 0.18) * double(k.contrast));
                    for (const Light& light : s.scene.lights)
                        l += 1.3 * given(light, at, {});
                    const double largest = std::max({l.x, l.y, l.z}),
                                 lum = std::min(1.0, keeps ? glm::dot(l, rec) : (l.x + l.y + l.z) / 3);
                    glm::dvec3 out = mix == "multiply"     ? g * l
                                     : mix == "scaled"     ? g * (1.0 + l)
                                     : mix == "added"      ? g + l
                                     : mix == "normalised" ? g + (b * l / std::max(largest, 0.2) - g) * lum
                                     : largest > 0         ? g + (b * l / largest - g) * lum
                                                           : glm::dvec3(0);
                    if (keeps) out = glm::max(out, g);
                    const float* dark = graded.pixel(x, y);
                    darker += keeps && (out.x < double(dark[0]) - 0.002 || out.y < double(dark[1]) - 0.002);
                    return out;
                });
                // Without a floor light that half floats lose is black.
                QVERIFY2(wrong <= (mix == "unfloored" ? 8 : 0) && darker == 0,
                         qPrintable(QString("%1 %2 %3").arg(form).arg(wrong).arg(darker)));
            }
    }

    void walls_stop_light_exactly() {
        for (unsigned seed = 30; seed < 36; ++seed) {
            FlatStage s = flat_stage(seed, 6, 7);
            const auto edges = flat::edges_of(flat::outlines_of(*s.scene.flat));
            const glm::dvec3 ambient(s.setup.color("flat.ambient"));
            const int wrong = wrong_pixels(s, [&](int x, int y, const glm::dvec2& at) {
                glm::dvec3 sum = ambient;
                for (const Light& l : s.scene.lights)
                    sum += given(l, at, edges);
                return sheet_at(s, x, y) * glm::clamp(sum, 0.0, 1.0);
            });
            // Pixel middles that an edge's shadow passes within a rasteriser's grid of.
            QVERIFY2(wrong <= 12, qPrintable(QString::number(wrong)));
        }
    }

    /// A layer that is not lit keeps what the hour leaves of it and takes the hour's sky; lamps do not show on it.
    void skies_change_with_the_hour() {
        FlatStage s = flat_stage(18, 4, 0);
        flat::World w = *s.scene.flat;
        w.layers[0].lit = false;
        flat::TimeKey night{2, {0.5f, 0.6f, 1.0f}, 1, 1, 0.3f, 3.0f, {0.0f, 0.01f, 0.02f}},
            noon{12, glm::vec3(1.0f), 1, 1, 1, 0.1f, {0.3f, 0.5f, 0.8f}};
        w.times = {night, noon};
        s.scene.flat = std::make_shared<const flat::World>(std::move(w));
        flat_choose(s, "flat.kind", "grade");
        for (const auto& [time, share] : {std::pair("2", 0.0), {"7", 0.5}, {"12", 1.0}}) {
            flat_choose(s, "grade.time", time);
            const glm::dvec3 tint = glm::mix(glm::dvec3(night.tint), glm::dvec3(noon.tint), share),
                             sky = glm::mix(glm::dvec3(night.sky), glm::dvec3(noon.sky), share);
            const double bright = 0.3 + 0.7 * share, keeps = 3.0 - 2.9 * share;
            QCOMPARE(
                wrong_pixels(s, [&](int x, int y,
                                    const glm::dvec2&) { return sheet_at(s, x, y) * tint * bright * keeps + sky; }),
                0);
        }
    }

    void a_limit_is_held_on_the_device_as_it_is_defined() {
        FlatStage s = flat_stage(5, 8, 0);
        flat_choose(s, "flat.shadow", "none");
        for (std::size_t i = 0; i < 8; ++i)
            s.scene.lights[i].flat.strongest = i % 3 == 0 ? 0.0f : i % 3 == 1 ? 0.5f : 0.8f;
        const glm::dvec3 ambient(s.setup.color("flat.ambient"));
        for (const char* kind : {"mask", "cut"}) {
            flat_choose(s, "flat.kind", kind);
            const bool cut = kind == std::string("cut");
            const glm::dvec3 base = cut ? glm::dvec3(1 - s.setup.number("cut.opacity")) : ambient;
            QCOMPARE(wrong_pixels(s,
                                  [&](int x, int y, const glm::dvec2& at) {
                                      glm::dvec3 sum = base;
                                      for (const double most : {0.5, 0.8, 0.0}) {
                                          for (const Light& l : s.scene.lights)
                                              if (std::abs(double(l.flat.strongest) - most) < 1e-6)
                                                  sum += given(l, at, {});
                                          if (most > 0) sum = glm::min(sum, glm::max(base, glm::dvec3(most)));
                                      }
                                      return sheet_at(s, x, y) * glm::clamp(sum, 0.0, 1.0);
                                  }),
                     0);
        }
    }

    void a_light_reaches_only_its_layers() {
        FlatStage s = flat_stage(3, 4, 0);
        flat_choose(s, "flat.shadow", "none");
        flat::World w = *s.scene.flat;
        w.layers.push_back({"above", 1, true, glm::vec4(1)});
        w.layers.push_back({"sky", 1, false, glm::vec4(1)});
        flat::Sprite half = w.sprites[0], unlit = w.sprites[0];
        half.id = 2, half.layer = 1, half.place.x = 64 + 64;        // covers the right half
        unlit.id = 3, unlit.layer = 2, unlit.place = {64, 36 + 60}; // and the top, as it is
        w.sprites.push_back(half);
        w.sprites.push_back(unlit);
        s.scene.flat = std::make_shared<const flat::World>(w);
        for (Light& l : s.scene.lights)
            l.flat.layers = {"above"};
        const glm::dvec3 ambient(s.setup.color("flat.ambient"));
        QCOMPARE(wrong_pixels(s,
                              [&](int x, int y, const glm::dvec2& at) {
                                  if (y < 12) return sheet_at(s, x, 60 + y);
                                  glm::dvec3 sum = ambient;
                                  for (const Light& l : s.scene.lights)
                                      if (x >= 64) sum += given(l, at, {});
                                  return sheet_at(s, x >= 64 ? x - 64 : x, y) * glm::clamp(sum, 0.0, 1.0);
                              }),
                 0);
    }

    void small_masks_grow_coarser_and_are_drawn_on_fewer_texels() {
        FlatStage s = flat_stage(9, 10, 5);
        const FloatImage whole = flat_floats(s, "final");
        double before = 0;
        std::uint64_t fragments = ~0ull;
        for (const char* scale : {"1", "2", "4", "8", "16"}) {
            flat_choose(s, "mask.scale", scale);
            for (const char* filter : {"nearest", "smooth"}) {
                flat_choose(s, "mask.filter", filter);
                const FloatImage small = flat_floats(s, "final");
                double error = 0;
                for (std::size_t i = 0; i < small.data.size(); ++i)
                    error += std::abs(double(small.data[i]) - double(whole.data[i]));
                error /= double(small.data.size());
                if (filter == std::string("nearest")) {
                    QVERIFY(scale == std::string("1") ? error == 0 : error > before);
                    before = error;
                } else
                    QVERIFY(error <= before); // stretched smoothly it is never worse
            }
            RenderOptions o;
            o.count = true;
            const FrameRecord r = flat_frame(s, o);
            for (const auto& p : r.passes)
                if (p.name == "lights") {
                    QVERIFY(p.work.at("fragments") < fragments);
                    fragments = p.work.at("fragments");
                }
        }
    }

    void accounts_add_up_and_name_the_wall() {
        FlatStage s = flat_stage(31, 6, 7);
        const DrawList list = build_draw_list(s.scene, s.setup, s.view);
        flat::World w = *s.scene.flat; // heights count with quads
        w.seen = flat::Seen::above;
        for (flat::Wall& wall : w.walls)
            wall.height = 8;
        s.scene.flat = std::make_shared<const flat::World>(std::move(w));
        int shadowed = 0;
        for (const char* kind : {"mask", "cut", "grade"})
            for (const char* scale : {"1", "4"}) {
                flat_choose(s, "flat.kind", kind);
                flat_choose(s, "mask.scale", scale);
                flat_choose(s, "flat.pixelScale", kind == std::string("cut") ? "3" : "1");
                flat_choose(s, "flat.shadow", kind == std::string("mask") ? "quads" : "polygon");
                for (int i = 0; i < 24; ++i) {
                    RenderOptions o;
                    o.probe = glm::ivec2(5 + i * 5, 3 + (i * 29) % 66);
                    const FrameRecord r = flat_frame(s, o);
                    const PixelAccount a = pixel_account(s.scene, s.setup, s.view, list, *r.probe, {}, {});
                    QVERIFY2(a.difference < 0.02 || worst(a.sum - a.picture) < 2.0 / 255, a.reason.c_str());
                    QVERIFY(!a.reason.empty() && a.surfaces.size() == 1);
                    QCOMPARE(a.surfaces[0].lights.size(), list.lights.size());
                    for (const LightTerm& t : a.surfaces[0].lights)
                        shadowed += !t.occluder.empty();
                }
            }
        QVERIFY(shadowed > 20);
    }

    void the_ledger_counts_pixels_and_what_each_light_adds() {
        FlatStage s = flat_stage(12, 5, 0);
        flat_choose(s, "flat.shadow", "none");
        RenderOptions o;
        o.ledger = true;
        const FrameRecord r = flat_frame(s, o);
        QCOMPARE(r.ledger.size(), std::size_t(5));
        for (const LightShare& share : r.ledger) {
            const Light& l = s.scene.lights[static_cast<std::size_t>(share.light - 1)];
            double wanted = 0;
            std::uint64_t covered = 0;
            for (int y = 0; y < 72; ++y)
                for (int x = 0; x < 128; ++x) {
                    const glm::dvec2 at(x + 0.5, 72 - y - 0.5);
                    covered += std::abs(at.x - double(l.position.x)) < double(l.range) &&
                               std::abs(at.y - double(l.position.y)) < double(l.range);
                    wanted += glm::dot(sheet_at(s, x, y) * given(l, at, {}), glm::dvec3(0.2126, 0.7152, 0.0722));
                }
            QVERIFY(std::abs(double(share.evaluations) - double(covered)) <= 300); // its box, to the pixel's middle
            QVERIFY(std::abs(share.luminance - wanted) < 0.01 * wanted + 0.02);
        }
    }

    void every_flat_pass_runs_and_every_layer_shows_something() {
        std::set<std::string> ran, moved;
        FlatStage s = flat_stage(6, 6, 4);
        Motion m;
        m.light = 1;
        m.kind = MotionKind::turn;
        s.scene.motions = {m};
        auto asset = std::make_shared<SceneAsset>(*s.scene.asset);
        auto world = std::make_shared<flat::World>(*asset->flat);
        world->sheets[0].emission = 0; // its own colours shine
        asset->flat = world;
        s.scene.asset = asset;
        s.scene.flat = world;
        for (const auto& [kind, shadow] : {std::pair("cut", "polygon"),
                                           {"mask", "quads"},
                                           {"grade", "field"},
                                           {"mask", "march"},
                                           {"compute", "polar"},
                                           {"cascades", "none"}}) {
            flat_choose(s, "flat.shadow", shadow);
            flat_choose(s, "flat.kind", kind);
            RenderOptions o;
            o.count = true;
            const FramePlan plan = plan_frame(s.scene, s.setup, s.view);
            const FrameRecord r = flat_frame(s, o);
            QCOMPARE(r.passes.size(), plan.passes.size());
            for (std::size_t i = 0; i < plan.passes.size(); ++i) {
                ran.insert(plan.passes[i].technique->name);
                for (const Feed& feed : plan.feeds)
                    if (plan.passes[i].calls(feed.slot)) ran.insert(feed.technique->name);
                for (const auto& [name, value] : r.passes[i].work.counts)
                    moved.insert(name);
            }
            for (const LayerInfo& l : all_layers()) {
                if (!shows(l, s.setup, true)) continue;
                RenderOptions lo;
                lo.light = 1;
                lo.floatLayers = {l.name};
                const FloatImage image = flat_frame(s, lo).floats.at(l.name);
                QVERIFY2(*std::max_element(image.data.begin(), image.data.end()) > 0, l.name.c_str());
            }
        }
        for (const Technique* t : all_techniques())
            if (t->stages == Stages::flat) {
                if (t->plan && t != &technique::quad_shadows()) // those work within others' passes
                    QVERIFY2(ran.contains(t->name), t->name.c_str());
                for (const Counter& c : t->counters)
                    QVERIFY2(moved.contains(c.name), c.name.c_str());
            }
    }
};

MIROLUX_TEST(flat_stage_test)
#include "flat_stage_test.moc"
