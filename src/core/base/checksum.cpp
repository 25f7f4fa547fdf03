#include "core/base/checksum.h"

#include <openssl/evp.h>

#include <array>
#include <new>
#include <vector>

#include "core/base/file.h"

namespace pristine {

struct Sha256::Own {
    EVP_MD_CTX* context = EVP_MD_CTX_new();
    ~Own() { EVP_MD_CTX_free(context); }
};

Sha256::Sha256() : own_(std::make_unique<Own>()) {
    if (!own_->context || EVP_DigestInit_ex(own_->context, EVP_sha256(), nullptr) != 1)
        throw std::bad_alloc();
}
Sha256::~Sha256() = default;
Sha256::Sha256(Sha256&&) noexcept = default;

void Sha256::add(const void* data, std::size_t length) {
    if (EVP_DigestUpdate(own_->context, data, length) != 1) throw std::bad_alloc();
}

std::string Sha256::digits() {
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned int length = 0;
    if (EVP_DigestFinal_ex(own_->context, digest.data(), &length) != 1) throw std::bad_alloc();
    std::string out;
    for (unsigned int k = 0; k < length; ++k) {
        constexpr const char* kDigits = "0123456789abcdef";
        out += kDigits[digest[k] >> 4];
        out += kDigits[digest[k] & 15];
    }
    return out;
}

std::string sha256_of(const std::string& bytes) {
    Sha256 sum;
    sum.add(bytes.data(), bytes.size());
    return sum.digits();
}

std::string sha256_of_file(const std::filesystem::path& path, Progress& progress) {
    const InputFile file(path);
    Sha256 sum;
    std::vector<std::byte> buffer(1 << 20);
    const std::uint64_t size = file.size();
    for (std::uint64_t at = 0;;) {
        const std::size_t got = file.read_some(at, buffer);
        if (got == 0) break;
        sum.add(buffer.data(), got);
        at += got;
        if (size > 0) progress.advance(std::min(1.0, static_cast<double>(at) / static_cast<double>(size)));
    }
    return sum.digits();
}

}  // namespace pristine
