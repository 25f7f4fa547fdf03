// SHA-256 (FIPS 180-4) of files and bytes, as 64 lower-case digits.

#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "core/base/progress.h"

namespace pristine {

/// Bytes one after the other.
class Sha256 {
  public:
    Sha256();
    ~Sha256();
    Sha256(Sha256&&) noexcept;
    void add(const void* data, std::size_t length);
    /// Once, at the end.
    std::string digits();

  private:
    struct Own;
    std::unique_ptr<Own> own_;
};

std::string sha256_of(const std::string& bytes);
/// Throws Error(Io), Cancelled.
std::string sha256_of_file(const std::filesystem::path&, Progress& = Progress::none());

}  // namespace pristine
