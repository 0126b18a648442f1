#!/bin/sh
# Prints one source that compiles several test programs together, each in a namespace of its own: bundle.sh NAME=FILE…
# What they include comes before the namespaces, and is not read again inside of them. Which one runs says the name that
# the program is called by.
set -eu
for pair in "$@"; do cat "${pair#*=}"; done | grep -E '^#include [<"]' | grep -v '\.moc"' | awk '!seen[$0]++'
cat <<'HEAD'
#undef QTEST_MAIN
#undef QTEST_GUILESS_MAIN
#undef QTEST_APPLESS_MAIN
#define QTEST_MAIN(Test) int main(int argc, char** argv) { QApplication program(argc, argv); Test test; return QTest::qExec(&test, argc, argv); }
#define QTEST_GUILESS_MAIN(Test) int main(int argc, char** argv) { QCoreApplication program(argc, argv); Test test; return QTest::qExec(&test, argc, argv); }
#define QTEST_APPLESS_MAIN(Test) int main(int argc, char** argv) { Test test; return QTest::qExec(&test, argc, argv); }
// What is waited for may take long where a sanitizer and other programs share the processors; a wait ends when it is met.
#undef QTRY_VERIFY
#undef QTRY_VERIFY2
#undef QTRY_COMPARE
#define QTRY_VERIFY(expr) QTRY_VERIFY_WITH_TIMEOUT((expr), 30'000)
#define QTRY_VERIFY2(expr, words) QTRY_VERIFY2_WITH_TIMEOUT((expr), (words), 30'000)
#define QTRY_COMPARE(actual, expected) QTRY_COMPARE_WITH_TIMEOUT((actual), (expected), 30'000)
HEAD
for pair in "$@"; do
  printf 'namespace in_%s {\n#include "%s"\n}\n' "${pair%%=*}" "${pair#*=}"
done
printf 'int main(int argc, char** argv) {\n    const std::string called = argv[0];\n    const std::string name = called.substr(called.find_last_of(0x2f) + 1);\n'
for pair in "$@"; do
  printf '    if (name == "%s") return in_%s::main(argc, argv);\n' "${pair%%=*}" "${pair%%=*}"
done
printf '    std::fprintf(stderr, "There is no test called %%s here.\\n", name.c_str());\n    return 2;\n}\n'
