// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QTest>

/// Tests are compiled and linked many to a program, since most of what that costs is the same for all of them. Each is run on
/// its own, by a link to the program that bears the test's name, or by the name as the program's first argument.
namespace one_of_many
{

using Run = int (*)(int argc, char** argv);

/// Makes a test known by its name.
bool list(const char* name, Run run);

/// Runs the test that a program was called as, or that its first argument names. @returns what QTest::qExec does, or 2 when
/// there is no such test.
int run(int argc, char** argv);

} // namespace one_of_many

/// At the end of a test's file: the class `space::Class` is the test `space`, and nothing else outside has its names.
#define STONE_TEST(space, Class)                                                                                               \
    static const bool listed_##space = one_of_many::list(#space, [](int argc, char** argv) {                                   \
        space::Class test;                                                                                                     \
        return QTest::qExec(&test, argc, argv);                                                                                \
    });
