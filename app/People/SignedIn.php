<?php

declare(strict_types=1);

namespace App\People;

use Illuminate\Contracts\Session\Session;

/** When somebody signed in, and when their password was asked for last, as their session has it. */
final readonly class SignedIn
{
    private const SINCE = 'signed_in_at';

    private const ASKED = 'password_at';

    private const USED = 'used_at';

    /** Seconds for which a password that was given counts for what cannot be undone. */
    private const FRESH_S = 1800;

    public function __construct(private Session $session)
    {
    }

    public function begin(): void
    {
        $this->session->put(self::SINCE, now()->getTimestamp());
        $this->used();
        $this->passwordGiven();
    }

    public function passwordGiven(): void
    {
        $this->session->put(self::ASKED, now()->getTimestamp());
    }

    public function isFresh(): bool
    {
        return now()->getTimestamp() - (int) $this->session->get(self::ASKED, 0) <= self::FRESH_S;
    }

    /** Somebody is at it: not a page that asks by itself. */
    public function used(): void
    {
        $this->session->put(self::USED, now()->getTimestamp());
    }

    public function isIdle(int $minutes): bool
    {
        return $this->session->has(self::USED) && now()->getTimestamp() - (int) $this->session->get(self::USED) > $minutes * 60;
    }

    /** Whether it has lasted so long that one signs in again, whatever one is at. */
    public function isOver(int $hours): bool
    {
        return $this->session->has(self::SINCE) && now()->getTimestamp() - (int) $this->session->get(self::SINCE) > $hours * 3600;
    }
}
