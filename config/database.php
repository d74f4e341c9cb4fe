<?php

declare(strict_types=1);

use App\Instance;

return [
    'default' => 'mariadb',
    'connections' => [
        'mariadb' => [
            'driver' => 'mariadb',
            'unix_socket' => Instance::path('sql/db.sock'),
            'host' => 'localhost',
            'database' => getenv('KAISEKI_SCHEMA') ?: 'kaiseki',
            'username' => function_exists('posix_getpwuid') ? posix_getpwuid(posix_geteuid())['name'] : 'root',
            'password' => '',
            'charset' => 'utf8mb4',
            'collation' => 'utf8mb4_uca1400_ai_ci',
            'prefix' => '',
            'strict' => true,
            'timezone' => '+00:00',
            'options' => [
                PDO::ATTR_EMULATE_PREPARES => true, PDO::MYSQL_ATTR_LOCAL_INFILE => true, PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
            ],
        ],
    ],
];
