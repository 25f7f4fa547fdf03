#define CATCH_CONFIG_RUNNER
#include <catch2/catch.hpp>

#include <QApplication>

#include "app/shell/theme.h"

int main(int argc, char** argv) {
    int qt_argc = 1;
    QApplication app(qt_argc, argv);
    QApplication::setOrganizationName("Pristine Cloud");
    QApplication::setApplicationName("pristine-cloud-test");
    pristine::app::apply_theme(app);
    return Catch::Session().run(argc, argv);
}
