// pristine-shots DIR FILE…: opens the files in a window, makes the pictures of the manual, and quits.

#include <QApplication>
#include <cstdio>

#include "app/look/preferences.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "shots.h"

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    if (argc < 3) {
        std::fprintf(stderr, "pristine-shots DIR FILE...\n");
        return 2;
    }
    QApplication::setOrganizationName(QStringLiteral("Pristine Cloud"));
    QApplication::setApplicationName(QStringLiteral("pristine-cloud"));
    pristine::app::apply_theme(app);
    pristine::app::apply_preferences();
    pristine::app::MainWindow window;
    window.show();
    const std::vector<std::filesystem::path> files(argv + 2, argv + argc);
    window.open_files(files);
    return pristine::app::make_shots(window, QString::fromUtf8(argv[1]), files);
}
