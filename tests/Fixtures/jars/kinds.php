<?php

declare(strict_types=1);

// A kind from outside the project, as KAISEKI_KINDS names it: jars, each one file that is brought back as it is.
foreach (['JarJudge', 'JarCarrier', 'JarSheet', 'JarTerminal', 'JarIntake', 'JarSource', 'JarsProvider', 'Jars'] as $class) {
    require_once __DIR__."/$class.php";
}

return [Outside\Jars\Jars::class];
