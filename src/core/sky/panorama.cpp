#include "core/sky/panorama.h"
#include "core/base/parallel.h"
#include <cmath>
#include <glm/gtc/constants.hpp>

namespace mirolux {

FloatImage panorama(int width, const std::function<glm::dvec3(const glm::dvec3&)>& radiance, int looks) {
    FloatImage image{width, width / 2, 4, std::vector<float>(std::size_t(2) * width * width, 1.0f)};
    parallel_for(0, image.height, [&](int y) {
        for (int x = 0; x < width; ++x) {
            glm::dvec3 sum(0.0);
            for (int j = 0; j < looks; ++j)
                for (int i = 0; i < looks; ++i) {
                    const double up = glm::pi<double>() * (y + (j + 0.5) / looks) / image.height,
                                 azimuth = 2 * glm::pi<double>() * ((x + (i + 0.5) / looks) / width - 0.5);
                    sum +=
                        radiance({std::sin(up) * std::sin(azimuth), std::cos(up), -std::sin(up) * std::cos(azimuth)});
                }
            for (int c = 0; c < 3; ++c)
                image.pixel(x, y)[c] = static_cast<float>(sum[c] / (looks * looks));
        }
    });
    return image;
}

} // namespace mirolux
