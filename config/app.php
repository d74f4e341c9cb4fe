<?php

declare(strict_types=1);

use App\Instance;

return [
    'name' => 'Kaiseki',
    'env' => getenv('KAISEKI_ENV') ?: 'production',
    'debug' => false,
    'url' => 'http://127.0.0.1:'.Instance::port(),
    'timezone' => 'UTC',
    'locale' => 'en',
    'cipher' => 'AES-256-CBC',
    'key' => is_file(Instance::path('keys/app.key')) ? trim((string) file_get_contents(Instance::path('keys/app.key'))) : '',
    // The names under which the pages are asked for; any other is refused, since links are made of it.
    'hosts' => Instance::hosts(),

    'faker_locale' => 'en_GB',

    // The zone in which moments are shown beside UTC.
    'local_zone' => getenv('KAISEKI_ZONE') ?: 'Europe/Oslo',
];
