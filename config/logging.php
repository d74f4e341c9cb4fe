<?php

declare(strict_types=1);

return ['default' => 'single'];
