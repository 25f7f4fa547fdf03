// The pictures of docs/screenshots, made from the demo site without a person.

#pragma once

#include <QString>
#include <filesystem>
#include <vector>

namespace pristine::app {

class MainWindow;

/// Waits for the scans, acts as a person would with mouse and keys, and saves PNGs. Returns the exit status.
int make_shots(MainWindow&, const QString& folder, const std::vector<std::filesystem::path>& scans);

}  // namespace pristine::app
