#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

#include <QApplication>
#include <string>

#include "app/look/theme.h"

int main(int argc, char** argv) {
    // The build asks for the list of tests, with no screen at hand; the tests themselves need a real one.
    for (int i = 1; i < argc; ++i)
        if (std::string(argv[i]).rfind("--list", 0) == 0) qputenv("QT_QPA_PLATFORM", "offscreen");
    int qt_argc = 1;
    QApplication app(qt_argc, argv);
    QApplication::setOrganizationName("Pristine Cloud");
    QApplication::setApplicationName("pristine-cloud-test");
    pristine::app::apply_theme(app);
    return Catch::Session().run(argc, argv);
}
