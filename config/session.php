<?php

declare(strict_types=1);

use App\Instance;

return [
    'driver' => 'database',
    'lifetime' => 480,
    // Browsers do not keep cookies apart by port: instances side by side need names of their own.
    'cookie' => 'kaiseki_'.Instance::port(),
    'http_only' => true,
    'same_site' => 'lax',
    'secure' => (bool) getenv('KAISEKI_HTTPS'),
];
