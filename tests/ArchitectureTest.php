<?php

declare(strict_types=1);

arch('core knows neither the framework, nor the application, nor the stand-ins')
    ->expect('Kaiseki\Core')->not->toUse(['Illuminate', 'App', 'Kaiseki\StandIns', 'Laravel', 'Symfony\Component\Process']);

arch('stand-ins do not know the application')->expect('Kaiseki\StandIns')->not->toUse(['App', 'Illuminate']);

arch('everything is strict')->expect(['App', 'Kaiseki\Core', 'Kaiseki\StandIns'])->toUseStrictTypes();

arch('nothing talks to people but the pages and the command line')->expect(['dd', 'dump', 'var_dump', 'print_r', 'die'])->not->toBeUsed();

arch('no shell is ever asked')->expect(['shell_exec', 'exec', 'system', 'passthru', 'popen', 'proc_open'])->not->toBeUsed();
