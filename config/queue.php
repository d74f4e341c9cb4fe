<?php

declare(strict_types=1);

return [
    'default' => getenv('KAISEKI_QUEUE') ?: 'database',
    // Where looks at how things stand are queued: another connection than the rest has, or none of its own.
    'looks' => getenv('KAISEKI_LOOKS') ?: null,
    'connections' => [
        'database' => [
            'driver' => 'database',
            'table' => 'jobs',
            'queue' => 'default',
            // A run may take hours; one that lost its worker is found by the scheduler, not by this clock.
            'retry_after' => 864000,
            'after_commit' => true,
        ],
    ],
    'failed' => ['driver' => 'database-uuids', 'database' => 'mariadb', 'table' => 'failed_jobs'],
];
