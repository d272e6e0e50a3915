#pragma once
#include <QObject>
#include <functional>
#include <map>
#include <string>

/// Registers a test class under its file's name; the executable runs the class that is named, or all.
std::map<std::string, std::function<QObject*()>>& test_classes();

#define MIROLUX_TEST(Class)                                                                                            \
    static const bool registered_##Class = (                                                                           \
        test_classes()[#Class] = []() -> QObject* { return new Class; }, true);
