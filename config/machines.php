<?php

declare(strict_types=1);

return [
    // Seconds in which a machine that is asked to shut down is off; after them its power is cut.
    'shuts_down_in' => max(1, (int) (getenv('KAISEKI_SHUT_DOWN_SECONDS') ?: 120)),
    /*
     * Bytes of an archive from which on it goes into a machine that runs on a disk that is plugged in, and not by its agent, which takes
     * about a megabyte a second.
     */
    'plugs_from' => 4 << 20,
];
