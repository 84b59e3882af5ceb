// SHA-256 of what was read, so that a record can say which data it belongs to (FIPS 180-4; computed by libmd).
#pragma once

#include <string>
#include <string_view>

#include <sha2.h>

namespace truecurve::detail {

class Sha256 {
 public:
  Sha256() { SHA256Init(&state_); }
  void add(std::string_view bytes) {
    SHA256Update(&state_, reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size());
  }
  [[nodiscard]] std::string hexadecimal() {
    char text[SHA256_DIGEST_STRING_LENGTH];
    SHA256End(&state_, text);
    return text;
  }

 private:
  SHA2_CTX state_{};
};

}  // namespace truecurve::detail
