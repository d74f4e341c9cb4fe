<?php

declare(strict_types=1);

namespace App\Hosts;

use SensitiveParameter;

/** What signs in to a host: a password, or a private key. */
final readonly class HostKey
{
    public function __construct(#[SensitiveParameter] public ?string $password, #[SensitiveParameter] public ?string $privateKey)
    {
    }
}
