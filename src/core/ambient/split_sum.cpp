#include "core/ambient/split_sum.h"
#include "core/base/parallel.h"
#include <cmath>
#include <cstdint>

namespace mirolux {

/// The van der Corput sequence to base 2.
static double mirrored_bits(std::uint32_t i) {
    double value = 0, place = 0.5;
    for (; i > 0; i >>= 1, place *= 0.5)
        if (i & 1) value += place;
    return value;
}

SplitSum split_sum(double cosView, double roughness, int samples) {
    SplitSum out;
    const double pi = glm::pi<double>(), nv = std::max(cosView, 1e-4), r = std::max(roughness, brdf::least_roughness),
                 alpha = r * r;
    const glm::dvec3 view(std::sqrt(std::max(0.0, 1 - nv * nv)), 0, nv);
    // Visible normals: the ellipsoid is stretched to a ball, whose half toward the eye is sampled by a disc.
    const glm::dvec3 stretched = glm::normalize(glm::dvec3(alpha * view.x, 0, view.z)), across(0, 1, 0),
                     up = glm::cross(stretched, across);
    const auto lambda = [&](double c) {
        return 0.5 * (std::sqrt(1 + alpha * alpha * (1 - c * c) / std::max(c * c, 1e-12)) - 1);
    };
    for (int i = 0; i < samples; ++i) {
        const double radius = std::sqrt((i + 0.5) / samples),
                     turn = 2 * pi * mirrored_bits(static_cast<std::uint32_t>(i)), x = radius * std::cos(turn),
                     half = 0.5 * (1 + stretched.z),
                     y = (1 - half) * std::sqrt(1 - x * x) + half * radius * std::sin(turn);
        const glm::dvec3 n = across * x + up * y + stretched * std::sqrt(std::max(0.0, 1 - x * x - y * y)),
                         h = glm::normalize(glm::dvec3(alpha * n.x, alpha * n.y, std::max(n.z, 1e-9)));
        const double vh = glm::dot(view, h);
        const double nl = 2 * vh * h.z - view.z;
        if (nl <= 0) continue;
        const double shows = (1 + lambda(nv)) / (1 + lambda(nv) + lambda(nl)), // G2 over G1 of the eye
            c = std::clamp(1 - vh, 0.0, 1.0), fresnel = c * c * c * c * c;
        out.scale += shows * (1 - fresnel) / samples;
        out.bias += shows * fresnel / samples;
    }
    const int rings = 32, sectors = 32; // half of the circle: the other one is its mirror image
    for (int ring = 0; ring < rings; ++ring) {
        const double s2 = (ring + 0.5) / rings, s = std::sqrt(s2),
                     z = std::sqrt(1 - s2); // even in the cosine's measure
        for (int sector = 0; sector < sectors; ++sector) {
            const double turn = pi * (sector + 0.5) / sectors;
            const glm::dvec3 l(s * std::cos(turn), s * std::sin(turn), z);
            const double lh = glm::dot(l, glm::normalize(l + view)), c = std::clamp(1 - lh, 0.0, 1.0);
            out.grazing += c * c * c * c * c / (rings * sectors);
        }
    }
    return out;
}

const SplitSumTable& split_sum_table() {
    static const SplitSumTable table = [] {
        SplitSumTable t;
        constexpr int n = SplitSumTable::size;
        t.values.resize(static_cast<std::size_t>(n) * n);
        parallel_for(0, n, [&](int row) {
            for (int column = 0; column < n; ++column) {
                const SplitSum s = split_sum(double(column) / (n - 1), double(row) / (n - 1), 512);
                t.values[static_cast<std::size_t>(row) * n + column] = {s.scale, s.bias, s.grazing};
            }
        });
        return t;
    }();
    return table;
}

SplitSum SplitSumTable::at(double cosView, double roughness) const {
    const double x = std::clamp(cosView, 0.0, 1.0) * (size - 1), y = std::clamp(roughness, 0.0, 1.0) * (size - 1);
    const int left = std::min(static_cast<int>(x), size - 2), low = std::min(static_cast<int>(y), size - 2);
    const auto value = [&](int column, int row) {
        return glm::dvec3(values[static_cast<std::size_t>(row) * size + column]);
    };
    const glm::dvec3 v = glm::mix(glm::mix(value(left, low), value(left + 1, low), x - left),
                                  glm::mix(value(left, low + 1), value(left + 1, low + 1), x - left), y - low);
    return {v.x, v.y, v.z};
}

double roughness_of_exponent(double exponent) {
    return std::sqrt(std::sqrt(2 / (exponent + 2)));
}

AmbientLeaves ambient_reflected(brdf::Model model, const brdf::Surface& surface, bool compensated, const SplitSum& sums,
                                const AmbientArrives& arrives) {
    const glm::dvec3 f0 = surface.f0(), base = surface.baseColor * (1 - surface.metallic);
    const double f90 = surface.f90();
    if (model == brdf::Model::lambert) return {surface.baseColor * arrives.diffuse, {}};
    if (model != brdf::Model::ggx) return {base * arrives.diffuse, f0 * arrives.specular};
    const glm::dvec3 once = f0 * sums.scale + f90 * sums.bias;
    if (!compensated) {
        const double straight = brdf::largest(surface.optics.f0);
        return {base * (1 - glm::mix(straight, double(surface.optics.f90), sums.grazing)) * arrives.diffuse,
                once * arrives.specular};
    }
    const double lost = 1 - (sums.scale + sums.bias); // of a lobe that swallows nothing
    const glm::dvec3 mean = f0 + (f90 - f0) / 21.0,   // Fresnel's, over the cosine
        more = once * mean / (1.0 - mean * lost) * lost;
    return {(more + base * (1.0 - once - more)) * arrives.diffuse, once * arrives.specular};
}

AmbientLeaves coated(const AmbientLeaves& beneath, const brdf::Surface& surface, double cosView,
                     const SplitSum& coatSums, const glm::dvec3& around) {
    const double coat = surface.coated(cosView);
    return {beneath.diffuse * (1 - coat),
            beneath.specular * (1 - coat) + coat * (coatSums.scale + coatSums.bias) * around};
}

} // namespace mirolux
