// `pristine-cloud`: the window.

#include <QApplication>
#include <QCommandLineParser>
#include <QTimer>
#include <cstdio>

#include "app/look/preferences.h"
#include "app/look/theme.h"
#include "app/window/main_window.h"
#include "app/window/settings_dialog.h"
#include "core/base/error.h"
#include "core/base/log.h"
#include "core/base/memory.h"

int main(int argc, char** argv) {
    pristine::give_freed_pages_back();
    QApplication app(argc, argv);
    QApplication::setOrganizationName(QStringLiteral("Pristine Cloud"));
    QApplication::setApplicationName(QStringLiteral("pristine-cloud"));
    QApplication::setApplicationVersion(QStringLiteral(PRISTINE_VERSION));
    pristine::app::apply_theme(app);
    pristine::app::apply_preferences();
    QCommandLineParser parser;
    parser.setApplicationDescription(
        QCoreApplication::translate("main", "Cleans point clouds, scan meshes and terrain surfaces"));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("files"),
                                 QCoreApplication::translate("main", "Scans, or one project"));
    const QCommandLineOption log_file(
        QStringLiteral("log"),
        QCoreApplication::translate("main", "Write the log to this file, not to that of the user"),
        QStringLiteral("FILE"));
    parser.addOption(log_file);
    parser.process(app);
    try {
        pristine::log::open(parser.isSet(log_file)
                                ? std::filesystem::path(parser.value(log_file).toStdString())
                                : pristine::app::usual_log());
        pristine::log::info("pristine-cloud v" PRISTINE_VERSION);
    } catch (const pristine::Error& e) {
        std::fprintf(stderr, "%s\n", e.what());
        if (parser.isSet(log_file)) return 2;  // the usual one is no reason not to work
    }
    pristine::app::MainWindow window;
    window.show();
    std::vector<std::filesystem::path> files;
    for (const QString& f : parser.positionalArguments()) files.emplace_back(f.toStdString());
    if (files.empty()) window.show_start();
    window.open_files(files);
    return QApplication::exec();
}
