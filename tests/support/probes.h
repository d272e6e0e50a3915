#pragma once
#include "core/ambient/probe_capture.h"
#include "core/plan/camera_motion.h"
#include <QTemporaryDir>

namespace mirolux::test {

/// Six faces as a capture's views see them, each pixel as `radiance` says by its direction from the probe.
template <class Radiance>
FloatImage painted_faces(int size, const Radiance& radiance) {
    std::array<FloatImage, 6> faces;
    const auto views = probe_views(Probe{}, size, View{});
    for (std::size_t f = 0; f < 6; ++f) {
        faces[f] = {size, size, 3, {}};
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const glm::dvec3 value = radiance(glm::dvec3(ray_through(views[f], x + 0.5, y + 0.5).direction));
                for (int c = 0; c < 3; ++c)
                    faces[f].data.push_back(static_cast<float>(value[c]));
            }
    }
    return stacked(faces);
}

/// A probe of a box about a place, whose capture is painted into a folder.
template <class Radiance>
Probe painted_probe(const QTemporaryDir& folder, int id, const glm::vec3& place, const glm::vec3& size,
                    const Radiance& radiance, int texels = 16) {
    Probe p;
    p.id = id;
    p.name = "probe " + std::to_string(id);
    p.position = p.center = place;
    p.size = size;
    p.blend = 0;
    p.file = folder.filePath(QString("probe-%1.exr").arg(id)).toStdString();
    if (auto ok = write_probe(p.file, painted_faces(texels, radiance)); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return p;
}

/// One whose box holds everything, of even light; half of what arrives is the surroundings' still.
inline Probe even_probe(const QTemporaryDir& folder) {
    Probe p = painted_probe(folder, 0, glm::vec3(0), glm::vec3(500), [](const glm::dvec3&) { return glm::dvec3(0.7); });
    p.weight = 0.5f;
    return p;
}

} // namespace mirolux::test
