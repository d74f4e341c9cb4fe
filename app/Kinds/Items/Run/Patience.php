<?php

declare(strict_types=1);

namespace App\Kinds\Items\Run;

use App\Runs\RunProgress;
use Closure;
use Kaiseki\Core\Mail\Dav\DavFailure;
use Kaiseki\Core\Mail\Imap\ImapFailure;

/** Work with a server whose line may be cut: it is begun again after a while, and finds what was done already. */
final class Patience
{
    /** Seconds that are waited before it is tried again. */
    private const WAITS = [1, 3, 10];

    /**
     * @param  Closure(): void  $do
     * @param  Closure(): void|null  $lost  told before it is waited
     *
     * @throws DavFailure|ImapFailure if the server refused something, or is gone for good
     */
    public static function with(RunProgress $progress, Closure $do, ?Closure $lost = null): void
    {
        foreach ([...self::WAITS, null] as $wait) {
            try {
                $do();

                return;
            } catch (DavFailure|ImapFailure $failure) {
                $lost === null || $lost();
                if (! $failure->isLost || $wait === null) {
                    throw $failure;
                }
                sleep($wait);
                $progress->tell();
            }
        }
    }
}
