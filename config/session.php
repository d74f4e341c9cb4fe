<?php

declare(strict_types=1);

use App\Instance;

return [
    'driver' => 'database',
    // Minutes without a request, and hours in all, after which one signs in again (NIST SP 800-63B, 4.2.3: at most 12 hours).
    'lifetime' => max(1, (int) (getenv('KAISEKI_IDLE_MINUTES') ?: 60)),
    'hours' => max(1, (int) (getenv('KAISEKI_SESSION_HOURS') ?: 12)),
    // Browsers do not keep cookies apart by port: instances side by side need names of their own.
    'cookie' => 'kaiseki_'.Instance::port(),
    'http_only' => true,
    'same_site' => 'lax',
    'secure' => Instance::proxies() !== [],
];
