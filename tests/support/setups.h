#pragma once
#include "core/plan/settings.h"
#include <QtTest>

namespace mirolux::test {

/// The setup with these settings, by key and word.
inline Setup setup_with(const std::vector<std::pair<std::string, std::string>>& values) {
    Setup s;
    for (const auto& [key, value] : values)
        if (auto ok = s.set_text(key, value); !ok) qFatal("%s", to_text(ok.error()).c_str());
    return s;
}

} // namespace mirolux::test
