<?php

declare(strict_types=1);

// No disk of the framework's is served: its routes for that (GET and PUT storage/{path}) are not made.
return [
    'disks' => ['local' => ['driver' => 'local', 'root' => storage_path('app'), 'serve' => false, 'throw' => true]],
];
