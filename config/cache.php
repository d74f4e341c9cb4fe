<?php

declare(strict_types=1);

return [
    'default' => getenv('KAISEKI_CACHE') ?: 'database',
    'prefix' => 'kaiseki_',
];
