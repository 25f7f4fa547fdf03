// make_odd_files DIR: writes the folders of odd and broken files, to try a program on by hand.

#include <iostream>

#include "odd/odd_files.h"

int main(int argc, char** argv) {
    if (argc != 2) return 2;
    try {
        for (const auto& f : pristine::test::write_odd_lines(argv[1]))
            std::cout << f.path.string() << (f.valid ? "  odd, " : "  broken, ") << f.points << " lines\n";
        for (const auto& f : pristine::test::write_odd_files(argv[1]))
            std::cout << f.path.string() << (f.valid ? "  odd, " : "  broken, ") << f.points << " points\n";
    } catch (const std::exception& e) {
        std::cerr << e.what() << "\n";
        return 1;
    }
}
