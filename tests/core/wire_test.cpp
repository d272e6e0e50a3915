#include "core/io/wire.h"
#include "support/test_main.h"
#include <QtTest>

using namespace mirolux;

/// What worker and program tell each other of a frame.
class wire_test : public QObject {
    Q_OBJECT
private slots:
    /// Every field of a sample, each with a value that it has by chance nowhere else.
    void what_covers_a_pixel_survives_whole() {
        SurfaceSample s;
        s.position = {1, 2, 3};
        s.normal = {0, 0.6f, 0.8f};
        s.baseColor = {0.1f, 0.2f, 0.3f};
        s.emissive = {4, 5, 6};
        s.ambient = {7, 8, 9};
        s.mirrored = {3.5f, 4.5f, 5.5f};
        s.reflected = {1.25f, 1.5f, 1.75f};
        s.probes = {2.25f, 2.5f, 2.75f};
        s.answer = -4;
        s.bakedOcclusion = 0.75f;
        s.screenOcclusion = 0.625f;
        s.depth = 0.03125f;
        s.alpha = 0.5f;
        s.metallic = 0.875f;
        s.roughness = 0.375f;
        s.unlit = true;
        s.draw = 11;
        s.triangle = 12;
        s.lightFactors = {0.25f, 1};
        s.lightThrough = {{0.5f, 0.75f}, {-1, 0}};
        s.thickness = 0.0625f;
        s.air = {0.1f, 0.2f, 0.3f, 0.9f};
        FrameRecord record;
        record.probe = PixelProbe{.pixel = {5, 6},
                                  .shown = {10, 12},
                                  .radiance = {10, 11, 12},
                                  .samples = {s, SurfaceSample{}},
                                  .airBeforeSky = {1, 2, 3, 0.5f},
                                  .spread = {-0.25f, 1, 0},
                                  .shafts = {0.5f, 0, 0},
                                  .stages = {{"exposed", {1, 2, 4}}, {"dithered, rounded", {1, 0.5f, 0}}},
                                  .airByLight = {{1, 0, 2}}};
        const Json json = Json::from_cbor(Json::to_cbor(to_json(record)));
        const FrameRecord back = record_from_json(JsonCursor(json));
        QVERIFY(back.probe.has_value());
        QVERIFY(back.probe->samples == record.probe->samples);
        QVERIFY(back.probe->stages == record.probe->stages && back.probe->shown == record.probe->shown);
        QVERIFY(back.probe->pixel == record.probe->pixel && back.probe->radiance == record.probe->radiance &&
                back.probe->airBeforeSky == record.probe->airBeforeSky && back.probe->shafts == record.probe->shafts &&
                back.probe->spread == record.probe->spread && back.probe->airByLight == record.probe->airByLight);
    }
};

MIROLUX_TEST(wire_test)
#include "wire_test.moc"
