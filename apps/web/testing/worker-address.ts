/** Stands for the address of a worker that the build makes: components are tested without their workers. */
export default 'worker-that-the-build-makes.js';
