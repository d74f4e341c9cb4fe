<?php

declare(strict_types=1);

namespace App\Models;

enum Role: string
{
    /** Works the desk. */
    case Operator = 'operator';
    /** Lost something; sees their own requests and says at the end whether it is right. */
    case Requester = 'requester';
    /** Second pair of eyes before anything in production is overwritten. */
    case Approver = 'approver';
    /** Reads proofs and the trail, changes nothing. */
    case Auditor = 'auditor';
    /** Says who may reach what; sees no workload, no request and no content. */
    case Administrator = 'administrator';

    /** @return list<self> those to whom rights on targets can be given */
    public static function withRights(): array
    {
        return [self::Operator, self::Approver];
    }
}
