// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/one_of_many.h"

#include <QApplication>

int main(int argc, char** argv)
{
    const QApplication app(argc, argv);
    return one_of_many::run(argc, argv);
}
