<?php

declare(strict_types=1);

return [
    'default' => 'single',
    // The syslog server that the trail is sent to, such as tls://log.example; none without it.
    'trail' => getenv('KAISEKI_SYSLOG') ?: '',
];
