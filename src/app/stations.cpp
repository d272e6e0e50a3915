#include "app/stations.h"
#include "core/plan/settings.h"
#include <QtGlobal>
#include <algorithm>

namespace mirolux::app {

const QList<Station>& stations() {
    static const QList<Station> all = [] {
        const Station table[] = {
            {"Scene", "", true},
            {"Lights", "", true},
            {"Path", QT_TR_NOOP("How surfaces meet lights. Changing it keeps everything else.")},
            {"Shadows", QT_TR_NOOP("What stands between a light and a surface.")},
            {"Ambient", QT_TR_NOOP("Light that comes from everywhere, before any lamp.")},
            {"Air", QT_TR_NOOP("What lies between a surface and the eye.")},
            {"Finish", QT_TR_NOOP("From scene-linear light to the display.")},
        };
        QList<Station> out;
        for (const Station& s : table) {
            const auto& settings = all_settings();
            if (s.bench ||
                std::any_of(settings.begin(), settings.end(), [&](const Setting& x) { return x.station == s.name; }))
                out << s;
        }
        return out;
    }();
    return all;
}

} // namespace mirolux::app
