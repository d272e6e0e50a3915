#include "support/test_main.h"
#include <QSettings>
#include <QTemporaryDir>
#include <QtTest>
#include <memory>
#ifdef QT_WIDGETS_LIB
#include <QApplication>
#else
#include <QCoreApplication>
#endif

std::map<std::string, std::function<QObject*()>>& test_classes() {
    static std::map<std::string, std::function<QObject*()>> classes;
    return classes;
}

int main(int argc, char** argv) {
    qputenv("DBUS_SESSION_BUS_ADDRESS",
            "disabled:"); // a bare X server has no session bus, and waiting for one may not end
    if (!qEnvironmentVariableIsSet("QTEST_FUNCTION_TIMEOUT")) // software devices build shaders for minutes
        qputenv("QTEST_FUNCTION_TIMEOUT", "850000");
#ifdef QT_WIDGETS_LIB
    QApplication app(argc, argv);
#else
    QCoreApplication app(argc, argv);
#endif
    QTemporaryDir settings; // a person's own stay as they are
    QCoreApplication::setOrganizationName("Mirolux");
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, settings.path());
    const std::string wanted = argc > 1 ? argv[1] : "";
    int failures = 0, run = 0;
    for (const auto& [name, make] : test_classes()) {
        if (!wanted.empty() && wanted != name) continue;
        ++run;
        const std::unique_ptr<QObject> test(make());
        QStringList arguments = {argv[0]};
        for (int i = 2; i < argc; ++i)
            arguments << argv[i];
        failures += QTest::qExec(test.get(), arguments);
    }
    if (run == 0) {
        std::fprintf(stderr, "no test class of the name %s\n", wanted.c_str());
        return 2;
    }
    return failures;
}
