@php($sheet = $view->sheet)
@php($frame = $view->frame)
@php($request = $view->request)
<x-request-page :frame="$frame" :blockers="$sheet->blockers" :hand-sheet="$sheet->reading !== null">
    <x-slot:sentence>@include($sheet->said->permissionsOnly ? 'kinds.files.sentence-permissions' : 'kinds.files.sentence')</x-slot:sentence>
    <x-slot:slip>@include('kinds.files.slip')</x-slot:slip>
    @include($frame->picker === 'proof' ? 'requests.proof' : 'kinds.files.pickers.' . $frame->picker)
</x-request-page>
