@use('App\Activity\ActivityResult')
@props(['result'])
<span @class(['muted' => $result === ActivityResult::Right, 'mark-failed' => $result === ActivityResult::Failed,
    'attention' => $result === ActivityResult::Part])>{{ $result->words() }}</span>
