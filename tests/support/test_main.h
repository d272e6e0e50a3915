#pragma once
#include <QObject>
#include <functional>
#include <map>
#include <string>

/// Registers a test class under its file's name; the executable runs the class that is named, or all.
std::map<std::string, std::function<QObject*()>>& test_classes();

/// Under a sanitizer, times are not held against their bounds.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
inline constexpr bool sanitized = true;
#else
inline constexpr bool sanitized = false;
#endif

#define MIROLUX_TEST(Class)                                                                                            \
    static const bool registered_##Class = (                                                                           \
        test_classes()[#Class] = []() -> QObject* { return new Class; }, true);
