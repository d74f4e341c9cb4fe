<?php

declare(strict_types=1);

// The kinds of workloads, in the order in which they are offered. Others are named by the file that KAISEKI_KINDS points to.
return [
    App\Kinds\Files\Files::class,
    App\Kinds\Databases\Databases::class,
    App\Kinds\Machines\Machines::class,
    App\Kinds\Items\Items::class,
];
