<?php

declare(strict_types=1);

namespace App\Models;

/** What an entry of the trail is about. */
enum TrailSort: string
{
    /** Work on a request, and on what is protected. */
    case Work = 'work';
    /** Signing in and out, and trying to. */
    case SignIn = 'sign-in';
    /** Reading, searching or taking away what is stored. */
    case Content = 'content';
    /** Orders, and who said yes or no to them. */
    case Order = 'order';
    /** What is made, kept, promised and by whom it may be reached. */
    case Rule = 'rule';
    /** People who sign in. */
    case Account = 'account';

    public function words(): string
    {
        return match ($this) {
            self::Work => 'work',
            self::SignIn => 'signing in',
            self::Content => 'reading content',
            self::Order => 'orders',
            self::Rule => 'rules and rights',
            self::Account => 'people',
        };
    }
}
